"""Text on paths."""

from __future__ import annotations

import msgspec

from volumen.app.commands.desk import Desk
from volumen.edit import objects
from volumen.geometry.affine import IDENTITY, invert, multiply
from volumen.model.nodes import Shape, TextForm
from volumen.model.tree import world_of
from volumen.outline.outlines import outline

replace = msgspec.structs.replace


class TextActs:
    """Sets text on a path and takes it off."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session

    def _text_and_path(self) -> tuple[Shape, Shape] | None:
        nodes = self.session.nodes
        if len(nodes) != 2 or not all(isinstance(n, Shape) for n in nodes):
            return None
        texts = [n for n in nodes if isinstance(n, Shape) and isinstance(n.form, TextForm)]
        others = [n for n in nodes if isinstance(n, Shape) and not isinstance(n.form, TextForm)]
        return (texts[0], others[0]) if texts and others else None

    def set_on_path(self) -> None:
        """The path's outline becomes the text's own baseline; Points edits it from then on."""
        from volumen.outline.forms import path_form

        found = self._text_and_path()
        if found is None:
            return
        text, path = found
        s = self.session
        inverse = invert(world_of(s.document, text.id)) or IDENTITY
        world = world_of(s.document, path.id)
        line = path_form(outline(path, world).transformed(multiply(inverse, world)))
        assert isinstance(text.form, TextForm)
        start = {"left": 0.0, "centre": 0.5, "right": 1.0}[text.form.align]
        document = objects.set_form(s.document, text.id, replace(text.form, path=line, start=start))
        s.apply("set text on path", document)
        s.select((text.id,))

    def take_off_path(self) -> None:
        shape = self.session.only_shape
        if shape is not None and isinstance(shape.form, TextForm) and shape.form.path is not None:
            at = shape.form.path.runs[0].points[0].at
            form = replace(shape.form, path=None, x=at[0], y=at[1])
            self.session.apply("take text off its path", objects.set_form(self.session.document, shape.id, form))
