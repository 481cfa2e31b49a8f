"""What the commands on the selection do: each an edit of the document, or a change of the selection."""

from __future__ import annotations

from typing import TYPE_CHECKING

from volumen.build.outline import form_changes
from volumen.edit import combine, freeze, links, objects
from volumen.geometry.affine import translation
from volumen.model.nodes import Image, PathForm, Shape
from volumen.model.tree import members

if TYPE_CHECKING:
    from volumen.app.window import Window


class Operations:
    def __init__(self, window: Window) -> None:
        self.window, self.session = window, window.session

    # -- when commands are enabled

    def any(self) -> bool:
        return bool(self.session.selection)

    def any_or_isolated(self) -> bool:
        return self.any() or self.session.isolated is not None

    def several(self) -> bool:
        return len(self.session.selection) > 1

    def can_redo(self) -> bool:
        return self.session.history.redo_label is not None

    def has_recipe(self) -> bool:
        return self.any() and bool(self.window.recipe_clip)

    def has_children(self) -> bool:
        return any(n.children for n in self.session.nodes)

    def can_freeze(self) -> bool:
        return any(n.recipe or n.children for n in self.session.nodes)

    def is_primitive(self) -> bool:
        return any(
            isinstance(n, Shape) and (not isinstance(n.form, PathForm) or bool(form_changes(n.recipe)))
            for n in self.session.nodes
        )

    # -- Edit

    def undo(self) -> None:
        """Inside an unfinished path this takes its last point back."""
        if not self.window.canvas.tool.undo():
            self.session.undo()

    def nudge(self, dx: float, dy: float) -> None:
        s = self.session
        s.apply("nudge", objects.transform(s.document, s.selection, translation(dx, dy)))

    def duplicate(self) -> None:
        s = self.session
        document, made = objects.duplicate(s.document, s.selection)
        s.apply("duplicate", objects.transform(document, made, translation(12, 12)))
        s.select(made)

    def copy_linked(self) -> None:
        s = self.session
        document, made = links.linked_copies(s.document, s.selection)
        s.apply("linked copy", objects.transform(document, made, translation(12, 12)))
        s.select(made)

    def link(self) -> None:
        s = self.session
        kinds = {type(n) for n in s.nodes}
        if len(kinds) != 1 or Image in kinds:
            s.say("only shapes can be linked with shapes, and groups with groups")
            return
        s.apply("link", links.link(s.document, s.selection))
        s.say(f"{len(s.selection)} objects are linked: what is changed in one changes in all")

    def unlink(self) -> None:
        s = self.session
        s.apply("unlink", links.unlink(s.document, s.selection))

    def select_linked(self) -> None:
        s = self.session
        s.select([i for n in s.selection for i in links.linked_with(s.document, n) or [n]])

    def any_linked(self) -> bool:
        return any(n.link is not None for n in self.session.nodes)

    def delete(self) -> None:
        self.session.apply("delete", objects.delete(self.session.document, self.session.selection))

    def cut(self) -> None:
        self.window.exchange.copy()
        self.delete()

    def select_all(self) -> None:
        root = self.session.document.root
        self.session.select([n.id for n in root.children if n.visible and not n.locked])

    def select_nothing(self) -> None:
        self.session.select(())

    # -- Object

    def group(self) -> None:
        s = self.session
        document, made = objects.group(s.document, s.selection)
        s.apply("group", document)
        if made is not None:
            s.select((made,))

    def ungroup(self) -> None:
        s = self.session
        if any(members(n) for n in s.nodes):
            self.release()
            return
        document, free = objects.ungroup(s.document, s.selection)
        s.apply("ungroup or release", document)
        if free:
            s.select(free)

    def release(self) -> None:
        """Take combinations apart: their members take their place."""
        document, free = combine.release(self.session.document, self.session.selection)
        self.session.apply("release members", document)
        self.session.select(free)

    def hold(self) -> None:
        s = self.session
        document, holder = objects.hold_inside(s.document, s.selection)
        if holder is None:
            s.say("select the shape that shall hold, and in front of it what it shall hold")
            return
        s.apply("hold inside", document)
        s.select((holder,))

    def restack(self, steps: int) -> None:
        s = self.session
        s.apply("restack", objects.restack(s.document, s.selection, steps))

    def flip(self, field: str) -> None:
        """Turn ``visible`` or ``locked`` over, for all as for the first."""
        s = self.session
        value = not getattr(s.nodes[0], field)
        s.apply(f"change {field}", objects.set_fields(s.document, s.selection, **{field: value}))

    def to_path(self) -> None:
        document = self.session.document
        for node_id in self.session.selection:
            document = freeze.to_path(document, node_id)
        self.session.apply("form to path", document)

    def freeze(self) -> None:
        document = self.session.document
        for node_id in self.session.selection:
            document = freeze.freeze(document, node_id)
        self.session.apply("freeze", document)
