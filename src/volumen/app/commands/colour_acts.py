"""Commands about colour: the palette, gradients across objects, stepped blends, bars and hatching."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from volumen.app.commands.desk import Desk
from volumen.app.widgets.asking import ask_save_name
from volumen.colour.cluster import distinct, main_colours
from volumen.colour.srgb import to_hex
from volumen.edit import blends, gradients, meshes, palette
from volumen.formats import palettes
from volumen.formats.files import FileProblem
from volumen.formats.images import pixels_of
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Document, Shape
from volumen.shading.paint import GRADIENTS, Colour, Solid, face_colour

_FROM_PICTURE = 8
_APART = 5.0  # CIEDE2000 between swatches from a picture: nearer ones are one colour to the eye


class ColourActs:
    """The palette, gradients across objects, stepped blends."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session

    # -- palette

    def _group(self, otherwise: str = "") -> str:
        """The group that new swatches go to: the chosen one."""
        return self.desk.swatch_group or otherwise

    def keep_colour(self) -> None:
        """The colour in use as a swatch; what shows it follows the swatch from now on."""
        s, node = self.session, self.session.first
        if node is None:
            s.say("select an object whose colour shall be kept")
            return
        index = s.active if s.active is not None and s.active < len(node.recipe) else None
        i = (
            node.recipe[index]
            if index is not None
            else next((i for i in reversed(node.recipe) if isinstance(i, Fill)), None)
        )
        paint = i.paint if isinstance(i, Fill | Line) else None
        shade: Colour | None
        if isinstance(paint, GRADIENTS) and paint.stops:
            shade = paint.stops[min(s.active_stop, len(paint.stops) - 1)].colour
        else:
            shade = face_colour(paint) if paint is not None else None
        if shade is None:
            s.say("this object has no colour to keep")
            return
        document, (made,) = palette.add_swatches(s.document, [(to_hex(shade.rgb), shade)], self._group())
        if isinstance(paint, Solid) and isinstance(node, Shape):
            linked = Solid(shade, made, paint.grain)
            document = palette.map_paints(document, lambda p: linked if p is paint else p, [node.id])
        s.apply("keep colour", document)

    def from_selection(self) -> None:
        s = self.session
        colours = palette.colours_in(s.document, s.selection)
        if not colours:
            s.say("select objects whose colours shall be kept")
            return
        document, _ = palette.add_swatches(
            s.document, [(to_hex(c.rgb), c) for c in colours], self._group("from the artwork")
        )
        s.apply("swatches from the selection", document)

    def from_picture(self) -> None:
        s = self.session
        reference = meshes.reference_for(s.document, s.selection)
        if reference is None:
            s.say("place a reference picture first")
            return
        try:
            pixels = pixels_of(reference[1].data)
        except FileProblem as problem:
            s.say(str(problem))
            return
        shown = pixels[pixels[..., 3] > 0.5][:, :3]
        if not len(shown):
            s.say("the picture is all clear")
            return
        found = distinct(main_colours(shown, 2 * _FROM_PICTURE), _APART)[:_FROM_PICTURE]
        rows = [(to_hex(c), Colour(*c)) for c in found.tolist()]
        document, _ = palette.add_swatches(s.document, rows, self._group(reference[0].name))
        s.apply("swatches from the picture", document)

    def keep_gradient(self) -> None:
        self.desk.take_tool("spindle")
        tool = self.desk.canvas.tool
        getattr(tool, "keep", lambda: None)()

    def keep_look(self) -> None:
        s, node = self.session, self.session.first
        if node is None:
            s.say("select the object whose look shall be kept")
            return
        s.apply("keep look", palette.save_look(s.document, node, f"{node.name} look"))

    def read_palette(self) -> None:
        self.desk.reading.prepare()
        name, _ = QFileDialog.getOpenFileName(
            self.desk.dialog_parent, "Read a palette", "", "Palettes (*.css *.json *.svg)"
        )
        if name:
            self.read_palette_file(Path(name))
        self.desk.reading.close()

    def read_palette_file(self, path: Path) -> None:
        try:
            found = self.desk.reading.palette(path).swatches
        except FileProblem as problem:
            self.desk.notice(str(problem))
            return
        document = self.session.document
        for group in dict.fromkeys(f.group for f in found):
            rows = [(f.name, f.colour) for f in found if f.group == group]
            document, _ = palette.add_swatches(document, rows, group or path.stem)
        self.session.apply("read palette", document)

    def write_palette(self) -> None:
        kinds = "Palettes (*.css *.json *.svg)"
        path = ask_save_name(self.desk.dialog_parent, "Write the palette", "palette.css", kinds, palettes.SUFFIXES)
        if path is not None:
            self.write_palette_file(path)

    def write_palette_file(self, path: Path) -> None:
        try:
            palettes.write_palette(self.session.document.palette, path)
        except FileProblem as problem:
            self.desk.notice(str(problem))
        else:
            self.session.say(f"palette written to {path.name}")

    # -- gradients and blends

    def as_one(self) -> None:
        s = self.session
        s.apply("gradient across", gradients.across(s.document, s.selection))

    def blend(self) -> None:
        s = self.session
        document, made = blends.blend(s.document, s.selection)
        if made is None:
            s.say("select two or more objects to put steps between")
            return
        s.apply("blend in steps", document)
        s.select((made,))
        self.desk.open_first_card()

    def take_spine(self) -> None:
        found = blends.blend_and_path(self.session.nodes)
        if found is not None:
            self.session.apply("steps along a spine", blends.with_spine(self.session.document, *found))
            self.session.select((found[0],))

    def hatch(self) -> None:
        self._made("hatch", blends.hatch, "select one shape to hatch")

    def shade_form(self) -> None:
        self._made("shaded form", blends.shaded_form, "select one filled shape to shade")

    def _made(self, label: str, make: Callable[[Document, int], tuple[Document, int | None]], otherwise: str) -> None:
        s = self.session
        shape = s.only_shape
        document, made = make(s.document, shape.id) if shape is not None else (s.document, None)
        if made is None:
            s.say(otherwise)
            return
        s.apply(label, document)
        s.select((made,))
