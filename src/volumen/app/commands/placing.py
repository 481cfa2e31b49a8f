"""Pictures and SVG placed in the artwork."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtWidgets import QFileDialog

from volumen.app.commands.desk import Desk, tell, tell_missing
from volumen.app.engine.folders import home
from volumen.edit import objects
from volumen.formats.files import FileProblem
from volumen.formats.foreign import Drawing
from volumen.geometry.affine import translation
from volumen.model.nodes import Group, Image

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

    def _place_picture(self, path: Path) -> None:
        found = self.desk.reading.picture(path)
        asset, width, height = found.asset, found.width, found.height
        s = self.session
        sheet = s.document.sheet
        k = min(sheet.width / width, sheet.height / height, 1.0)
        w, h = width * k, height * k
        place = translation((sheet.width - w) / 2, (sheet.height - h) / 2)
        node = Image(s.document.next_id, path.stem, asset.key, w, h, transform=place)
        document = s.document
        if all(a.key != asset.key for a in document.assets):
            document = replace(document, assets=(*document.assets, asset))
        s.apply("place reference", objects.insert(document, document.root.id, (node,), 0))
        s.select((node.id,))
        s.say(
            "placed as a reference behind the artwork: dim it in the Object menu, lock it in the pile; no export holds it"
        )

    def insert_svg(self, reading: Drawing) -> None:
        s = self.session
        document, made = objects.paste(s.document, (Group(-2, "clip", (reading.content,)),))
        s.apply("place SVG", document)
        s.select(made)
        tell_missing(self.desk, reading.notes)
