"""Pictures and SVG placed in the artwork."""

from __future__ import annotations

import io
from pathlib import Path

import msgspec
from PIL import Image as Pillow
from PySide6.QtWidgets import QFileDialog

from volumen.app.commands.desk import Desk, tell, tell_missing
from volumen.app.engine.folders import home
from volumen.edit import objects
from volumen.formats.files import FileProblem
from volumen.formats.foreign import Drawing, Picture
from volumen.geometry.affine import multiply, translation
from volumen.model.nodes import Asset, Document, Group, Image
from volumen.model.tree import find, update_nodes

PICTURE_FILTER = "Pictures (*.png *.jpg *.jpeg *.webp *.tif *.tiff)"
PLACE_FILTER = "Pictures and SVG (*.png *.jpg *.jpeg *.webp *.tif *.tiff *.svg)"
replace = msgspec.structs.replace


class Placing:
    """Pictures and SVG put into the artwork."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session

    def place(self) -> None:
        self.desk.reading.prepare()
        name, _ = QFileDialog.getOpenFileName(self.desk.dialog_parent, "Place", str(home()), PLACE_FILTER)
        if name:
            self.place_file(Path(name))
        self.desk.reading.close()

    def place_file(self, path: Path) -> bool:
        """Put a picture (as reference) or an SVG in front of all; False if it cannot be."""
        try:
            if path.suffix.lower() == ".svg":
                self.insert_svg(self.desk.reading.svg(path))
            else:
                self._place_picture(path)
        except FileProblem as problem:
            tell(self.desk, str(problem))
            return False
        return True

    def scan(self) -> None:
        """Lay a picture on the simulated scanner, and place the scan."""
        self.desk.reading.prepare()
        name, _ = QFileDialog.getOpenFileName(self.desk.dialog_parent, "Scan", str(home()), PICTURE_FILTER)
        if name:
            self.scan_file(Path(name))
        self.desk.reading.close()

    def scan_file(self, path: Path) -> bool:
        """Place a picture as the simulated scanner gives it; False if it cannot be."""
        try:
            self._place_found(self.desk.reading.scan(path), f"scan of {path.stem}", "scan")
        except FileProblem as problem:
            tell(self.desk, str(problem))
            return False
        self.session.say("scanned and placed as a reference; File, Straighten the scan takes out skew and colour cast")
        return True

    def straighten(self) -> None:
        """Take skew and colour cast out of the selected scan, by the chart round it."""
        s = self.session
        node = next(n for n in s.nodes if isinstance(n, Image))
        asset = next((a for a in s.document.assets if a.key == node.asset), None)
        if asset is None:
            return
        try:
            found = self.desk.reading.straightened(asset.data, node.name)
        except FileProblem as problem:
            s.say(str(problem))
            return
        if find(s.document, node.id) is not node:
            return  # it was changed meanwhile
        middle = node.width / 2, node.height / 2
        k = node.width / Pillow.open(io.BytesIO(asset.data)).width
        w, h = found.width * k, found.height * k
        made = replace(
            node, asset=found.asset.key, width=w, height=h,
            transform=multiply(node.transform, translation(middle[0] - w / 2, middle[1] - h / 2)),
        )  # fmt: skip
        document = update_nodes(_holding(s.document, found.asset), [node.id], lambda _: made)
        s.apply("straighten", document)

    def _place_picture(self, path: Path) -> None:
        self._place_found(self.desk.reading.picture(path), path.stem, "place reference")
        self.session.say(
            "placed as a reference behind the artwork: dim it in the Object menu, lock it in the pile; no export holds it"
        )

    def _place_found(self, found: Picture, name: str, label: str) -> None:
        asset, width, height = found.asset, found.width, found.height
        s = self.session
        sheet = s.document.sheet
        k = min(sheet.width / width, sheet.height / height, 1.0)
        w, h = width * k, height * k
        place = translation((sheet.width - w) / 2, (sheet.height - h) / 2)
        node = Image(s.document.next_id, name, asset.key, w, h, transform=place)
        document = _holding(s.document, asset)
        s.apply(label, objects.insert(document, document.root.id, (node,), 0))
        s.select((node.id,))

    def insert_svg(self, reading: Drawing) -> None:
        s = self.session
        document, made = objects.paste(s.document, (Group(-2, "clip", (reading.content,)),))
        s.apply("place SVG", document)
        s.select(made)
        tell_missing(self.desk, reading.notes)


def _holding(document: Document, asset: Asset) -> Document:
    """A document that holds the data of a picture, once."""
    if any(a.key == asset.key for a in document.assets):
        return document
    return replace(document, assets=(*document.assets, asset))
