"""Exchange with other programs: SVG and pictures opened, placed, dropped, copied and pasted."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from PySide6.QtCore import QByteArray, QMimeData
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QFileDialog

from volumen.app.engine.folders import home
from volumen.edit import links, objects
from volumen.formats import native
from volumen.formats.files import FileProblem
from volumen.formats.foreign import Drawing
from volumen.geometry.affine import translation
from volumen.model.nodes import Document, Group, Image
from volumen.model.tree import parent_of

if TYPE_CHECKING:
    from volumen.app.window.window import Window

MIME = "application/vnd.volumen.nodes"
SVG_MIME = "image/svg+xml"
PLACE_FILTER = "Pictures and SVG (*.png *.jpg *.jpeg *.webp *.tif *.tiff *.svg)"
replace = msgspec.structs.replace


class Exchange:
    def __init__(self, window: Window) -> None:
        self.window, self.session = window, window.session

    # -- files

    def place(self) -> None:
        self.window.reading.prepare()
        name, _ = QFileDialog.getOpenFileName(self.window, "Place", str(home()), PLACE_FILTER)
        if name:
            self.place_file(Path(name))
        self.window.reading.close()

    def place_file(self, path: Path) -> bool:
        """Put a picture (as reference) or an SVG in front of all; False if it cannot be."""
        try:
            if path.suffix.lower() == ".svg":
                self.insert_svg(self.window.reading.svg(path))
            else:
                self._place_picture(path)
        except FileProblem as problem:
            self.window.files.tell(str(problem))
            return False
        return True

    def _place_picture(self, path: Path) -> None:
        found = self.window.reading.picture(path)
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
        self.tell_missing(reading.notes)

    def tell_missing(self, notes: list[str]) -> None:
        """List what an SVG held that could not be kept."""
        if notes:
            self.window.notice("Not kept from the SVG: " + ", ".join(notes) + ".")

    # -- the clipboard

    def copy(self) -> None:
        """The selection for Volumen itself, and as SVG and PNG for other programs."""
        s = self.session
        branches = objects.branches(s.document, s.selection)
        mime = QMimeData()
        mime.setData(MIME, QByteArray(native.encode_branches(branches)))
        svg, png = exported(s.document, s.selection, branches)
        if svg:
            mime.setData(SVG_MIME, QByteArray(svg))
            mime.setText(svg.decode())
        if png:
            mime.setImageData(QImage.fromData(png))
        QGuiApplication.clipboard().setMimeData(mime)

    def paste(self, where: str = "front") -> None:
        """Paste in front of all; or in place, ``above`` or ``below`` what is selected."""
        try:
            document, made, notes = self._pasted(where)
        except FileProblem as problem:
            self.session.say(str(problem))
            return
        if not made:
            self.session.say("there is nothing on the clipboard that can be pasted")
            return
        self.session.apply("paste", document)
        self.session.select(made)
        self.tell_missing(notes)

    def _pasted(self, where: str) -> tuple[Document, list[int], list[str]]:
        mime, s = QGuiApplication.clipboard().mimeData(), self.session
        document, notes = s.document, []
        if mime is None:
            return document, [], []
        if mime.hasFormat(MIME):
            clips = native.decode_branches(bytes(mime.data(MIME).data()))
            document, clips = links.own_links(document, clips)
            document, made = objects.paste(document, clips, 12.0 if where == "front" else 0.0)
        else:
            data = bytes(mime.data(SVG_MIME).data()) if mime.hasFormat(SVG_MIME) else b""
            if not data and mime.hasText() and "<svg" in mime.text()[:2000]:
                data = mime.text().encode()
            if not data:
                return document, [], []
            reading = self.window.reading.svg_data(data, "the clipboard")
            notes = reading.notes
            document, made = objects.paste(document, (Group(-2, "clip", (reading.content,)),))
        if where != "front" and s.selection:
            document = beside(document, made, s.selection[0], where == "above")
        return document, made, notes


def beside(document: Document, ids: list[int], anchor: int, above: bool) -> Document:
    """Move nodes right above or below another one in the pile, where they stay in place."""
    parent = parent_of(document, anchor)
    if parent is None:
        return document
    index = next(i for i, c in enumerate(parent.children) if c.id == anchor)
    return objects.move_in_tree(document, ids, parent.id, index + (1 if above else 0))


def exported(document: Document, ids: tuple[int, ...], branches: tuple[Group, ...]) -> tuple[bytes, bytes]:
    """Branches alone as SVG and PNG; empty for what shows nothing."""
    from volumen.compose.scene import build
    from volumen.formats.export import picture_png
    from volumen.formats.svg.write import svg_bytes

    box = objects.selection_box(document, ids)
    if box is None:
        return b"", b""
    margin = 0.02 * max(box[2] - box[0], box[3] - box[1]) + 1
    place = translation(margin - box[0], margin - box[1])
    sheet = replace(
        document.sheet, width=max(box[2] - box[0] + 2 * margin, 1.0), height=max(box[3] - box[1] + 2 * margin, 1.0), ground=None
    )  # fmt: skip
    alone = replace(document, sheet=sheet, root=Group(-2, "copy", branches, transform=place))
    picture = build(alone, ground=False)
    return svg_bytes(picture), picture_png(picture, 2048)
