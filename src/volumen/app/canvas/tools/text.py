"""Text: click to set a caret and type; the text stays text."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import INK, halo_line
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Option, Tool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.geometry.affine import Affine, apply, multiply, translation
from volumen.model.ingredients import Fill
from volumen.model.limits import MAX_TEXT
from volumen.model.nodes import Document, Shape, TextForm
from volumen.model.tree import find, world_of
from volumen.outline.forms import text_glyphs
from volumen.shading.paint import Solid

replace = msgspec.structs.replace


class TextTool(Tool):
    """Sets and edits text on the sheet."""

    name = "text"
    icon = "type"
    keys = "T"
    toolbox = (Shown(Stage.DRAW, 140),)
    hint = "Click and type, or click a text to change it. <b>Enter</b> starts a line, <b>Escape</b> ends. The font is in the recipe."
    cursor = Qt.CursorShape.IBeamCursor
    options = (Option("size", "size", 64, 6, 300, "", 0.1, is_length=True),)

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.editing: int | None = None
        self.caret = 0
        self.before: Document | None = None

    @property
    def typing(self) -> bool:  # type: ignore[override]
        return self.editing is not None

    def _form(self) -> TextForm | None:
        node = find(self.session.document, self.editing) if self.editing is not None else None
        return node.form if isinstance(node, Shape) and isinstance(node.form, TextForm) else None

    def press(self, p: Pointer) -> None:
        self.finish()
        chain = self.under(p, 8)
        node = find(self.session.document, chain[-1]) if chain else None
        self.before = self.session.document
        if isinstance(node, Shape) and isinstance(node.form, TextForm):
            self.editing, self.caret = node.id, len(node.form.text)
            self.session.select((node.id,))
        else:
            at = self.sheet.snap(p)
            form = TextForm("", size=self.values["size"], x=at[0], y=at[1])
            recipe = (Fill(Solid(self.sheet.last_colour)),)
            document, made = objects.add_shape(self.before, form, recipe, "text", self.session.isolated)
            self.editing, self.caret = made, 0
            self.session.preview(document)
        self.sheet.update()

    def text(self, letters: str) -> None:
        form = self._form()
        if form is not None:
            self._set(form.text[: self.caret] + letters + form.text[self.caret :], self.caret + len(letters))

    def _set(self, text: str, caret: int) -> None:
        assert self.editing is not None
        form, node = self._form(), find(self.session.document, self.editing)
        if form is None or node is None:
            return
        if len(text) > MAX_TEXT:
            self.session.say(f"a text can have {MAX_TEXT:,} letters; the rest is left out")
            text, caret = text[:MAX_TEXT], min(caret, MAX_TEXT)
        name = " ".join(text.split())[:40] or "text"
        self.caret = caret
        changed = objects.set_fields(self.session.document, [self.editing], name=name)
        self.session.preview(objects.set_form(changed, self.editing, replace(form, text=text)))

    def wants(self, key: int) -> bool:
        return self.typing and key in (
            Qt.Key.Key_Backspace, Qt.Key.Key_Delete, Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter,
            Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Space,
        )  # fmt: skip

    def key(self, key: int) -> bool:
        form = self._form()
        if form is None:
            return False
        t, c = form.text, self.caret
        if key == Qt.Key.Key_Escape:
            self.finish()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.text("\n")
        elif key == Qt.Key.Key_Backspace and c > 0:
            self._set(t[: c - 1] + t[c:], c - 1)
        elif key == Qt.Key.Key_Delete and c < len(t):
            self._set(t[:c] + t[c + 1 :], c)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End):
            to = {Qt.Key.Key_Left: c - 1, Qt.Key.Key_Right: c + 1, Qt.Key.Key_Home: 0, Qt.Key.Key_End: len(t)}
            self.caret = min(max(to[Qt.Key(key)], 0), len(t))
        return True

    def finish(self) -> None:
        """End typing: one step of undo. A text without letters goes."""
        form, node_id = self._form(), self.editing
        self.editing = None
        if form is None or node_id is None:
            return
        if not form.text.strip():
            self.session.cancel()
            if find(self.session.document, node_id) is not None:
                self.session.apply("delete text", objects.delete(self.session.document, [node_id]))
        else:
            self.session.commit("type text")
            self.session.select((node_id,))
        self.sheet.update()

    def leave(self) -> None:
        self.finish()

    def unfinished(self) -> Document | None:
        form = self._form()
        typed = form is not None and bool(form.text.strip()) and self.session.history.in_gesture
        return self.session.document if typed else None

    def drop(self) -> None:
        self.editing = None
        self.session.cancel()

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        form = self._form()
        if form is None or self.editing is None:
            return
        m = multiply(self.sheet.viewport.affine(), world_of(self.session.document, self.editing))
        place = caret_place(form, self.caret)
        halo_line(
            painter,
            apply(multiply(m, place), (0, 0.22 * form.size)),
            apply(multiply(m, place), (0, -0.78 * form.size)),
            INK,
        )


def caret_place(form: TextForm, caret: int) -> Affine:
    """Where the caret before a character stands, as a map from a baseline at the origin."""
    glyphs = text_glyphs(form)
    before = [g for g in glyphs if g.cluster < caret]
    line = form.text[:caret].count("\n")
    start = form.text.rfind("\n", 0, caret) + 1
    on_line = [g for g in before if g.cluster >= start]
    if not on_line:
        following = [g for g in glyphs if g.cluster >= start]
        if following and (form.path is not None or form.text[start : start + 1] not in ("", "\n")):
            g = following[0]
            return translation(g.place[4], g.place[5])
        return translation(form.x, form.y + line * form.leading * form.size)
    g = on_line[-1]
    k = g.advance / max((g.place[0] ** 2 + g.place[1] ** 2) ** 0.5, 1e-9)
    return translation(g.place[4] + g.place[0] * k, g.place[5] + g.place[1] * k)
