"""Commands that combine, find, isolate and exchange: the second half of what acts on the selection."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import msgspec

from volumen.app.canvas.handles import next_colour
from volumen.edit import combine, joining, objects, search
from volumen.edit.search import Likeness
from volumen.geometry.affine import IDENTITY, invert, multiply
from volumen.geometry.engine import PathOpError
from volumen.model.nodes import Combining, Document, Image, Shape, TextForm
from volumen.model.tree import find, walk, world_of
from volumen.outline.outlines import outline

if TYPE_CHECKING:
    from volumen.app.window.window import Window

replace = msgspec.structs.replace


class MoreOperations:
    def __init__(self, window: Window) -> None:
        self.window, self.session = window, window.session

    # -- combining

    def combine(self, operation: Combining, live: bool = True) -> None:
        s = self.session
        dropped = combine.looks_dropped(s.document, s.selection, operation)
        try:
            if live:
                document, made = combine.combine(s.document, s.selection, operation)
                ids = [made] if made is not None else []
            else:
                document, ids = combine.combine_once(s.document, s.selection, operation)
        except PathOpError as error:
            s.say(str(error))
            return
        s.apply(operation, document)
        s.select(ids)
        if dropped:
            s.say(dropped)

    def knockout(self) -> None:
        s = self.session
        value = not s.nodes[0].knockout
        s.apply("knockout", objects.set_fields(s.document, s.selection, knockout=value))
        spared = [n.name for n in walk(s.document.root) if n.stock]
        if value:
            s.say(
                "everything beneath it in its group shows the stock"
                + (f", but for {', '.join(spared)}" if spared else "")
            )

    def stock(self) -> None:
        """Mark what the artwork is judged on: knockouts leave it alone."""
        s = self.session
        value = not s.nodes[0].stock
        s.apply("stock", objects.set_fields(s.document, s.selection, stock=value))
        s.say("marked as stock: no knockout cuts it" if value else "no stock any more: knockouts cut it")

    def join_ends(self) -> None:
        self._join("join ends", joining.join_ends)

    def mirror_weld(self) -> None:
        self._join("mirrored half", lambda document, ids: joining.mirror_weld(document, ids[0]))

    def _join(self, label: str, make: Callable[[Document, list[int]], tuple[Document, int]]) -> None:
        s = self.session
        try:
            document, made = make(s.document, list(s.selection))
        except joining.CannotJoin as error:
            s.say(str(error))
            return
        s.apply(label, document)
        s.select((made,))

    # -- text

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

    # -- finding

    def select_alike(self, by: Likeness) -> None:
        first = self.session.first
        if first is not None:
            found = search.alike(self.session.document, first.id, by)
            self.session.select(found)
            self.session.say(f"{len(found)} objects with the same {by}")

    def select_duplicates(self) -> None:
        found = search.duplicates(self.session.document)
        self.session.select(found)
        self.session.say(
            f"{len(found)} objects lie exactly on another one: Delete removes them"
            if found
            else "no object lies exactly on another"
        )

    def select_strays(self) -> None:
        found = search.strays(self.session.document)
        self.session.select(found)
        areas = search.areas_of(self.session.document, found)
        specks = [a for a in areas if a > 0]
        text = f"{len(found)} stray points and empty shapes" if found else "there are no stray points"
        if specks:
            text += f", {len(specks)} of them specks of up to {max(specks):.2g} square units"
        self.session.say(text)

    # -- looking

    def isolate(self) -> None:
        """Work inside one branch; again, with nothing new chosen, to leave it."""
        s = self.session
        first = s.first
        if s.isolated is not None:
            s.set_look(isolated=None)
            s.say("all objects can be worked on again")
        elif first is not None:
            s.set_look(isolated=first.id)
            s.say(f"working inside '{first.name}' alone; the same command leaves it")

    def recolour_guides(self) -> None:
        next_colour()
        self.window.canvas.update()

    def toggle_kind(self, kind: str) -> None:
        self.session.set_look(snap_kinds=self.session.snap_kinds ^ {kind})

    def clear_guides(self) -> None:
        self.session.apply("remove guides", replace(self.session.document, guides=()))

    # -- references

    def dim(self) -> None:
        """Dim a reference picture to a third, or show it in full again."""
        s = self.session
        images = [n.id for n in s.nodes if isinstance(n, Image)]
        if not images:
            s.say("select a reference image first")
            return
        first = find(s.document, images[0])
        dimmed = first is not None and first.opacity < 1
        s.apply("dim reference", objects.set_fields(s.document, images, opacity=1.0 if dimmed else 0.35))
