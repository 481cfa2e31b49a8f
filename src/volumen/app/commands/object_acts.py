"""What the commands on the selection do: each an edit of the document, or a change of the selection."""

from __future__ import annotations

from volumen.app.commands.clipboard import Clipboard
from volumen.app.commands.desk import Desk
from volumen.app.widgets.waiting import Waiting
from volumen.edit import combine, freeze, objects, plain_forms
from volumen.edit.combined_looks import own_light
from volumen.edit.line_outlines import line_to_outline, otherwise_on_bands
from volumen.geometry.affine import translation
from volumen.model.nodes import Shape
from volumen.model.tree import loose_references, members
from volumen.picture.stopping import Stopped


class ObjectActs:
    """Edits of the selection, each one step of undo."""

    def __init__(self, desk: Desk, clipboard: Clipboard) -> None:
        self.desk, self.session, self.clipboard = desk, desk.session, clipboard

    # -- Edit

    def undo(self) -> None:
        """Inside an unfinished path this takes its last point back."""
        if not self.desk.canvas.tool.undo():
            self.session.undo()

    def nudge(self, dx: float, dy: float) -> None:
        s = self.session
        s.apply("nudge", objects.transform(s.document, s.selection, translation(dx, dy)))

    def duplicate(self) -> None:
        s = self.session
        document, made = objects.duplicate(s.document, s.selection)
        s.apply("duplicate", objects.transform(document, made, translation(12, 12)))
        s.select(made)

    def delete(self) -> None:
        s = self.session
        before = {n.id for n in loose_references(s.document)}
        s.apply("delete", objects.delete(s.document, s.selection))
        loose = [n.name for n in loose_references(s.document) if n.id not in before]
        if loose:
            s.say(f"deleted what the light of {_named(loose)} was held to: it shows again once its card names another")

    def copy(self) -> None:
        self.clipboard.copy()
        count = len(self.session.selection)
        self.session.say(f"{count} object{'s' if count > 1 else ''} copied")

    def cut(self) -> None:
        self.clipboard.copy()
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
        document, free, lost = objects.ungroup(s.document, s.selection)
        s.apply("ungroup or release", document)
        if free:
            s.select(free)
        if lost:
            s.say(f"ungrouped; what the group showed as one went with it: {lost}. Undo brings it back")

    def release(self) -> None:
        """Take combinations apart: their members take their place."""
        s = self.session
        lost = [words for n in s.nodes if (words := own_light(n))]
        document, free = combine.release(s.document, s.selection)
        s.apply("release members", document)
        s.select(free)
        if lost:
            s.say(
                f"released; what the combination showed of its own went with it: {', '.join(lost)}. Undo brings it back"
            )

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
        """Turn ``visible``, ``locked`` or another such field over, for all as for the first."""
        s = self.session
        value = not getattr(s.nodes[0], field)
        s.apply(f"change {field}", objects.set_fields(s.document, s.selection, **{field: value}))

    def to_path(self) -> None:
        document, s = self.session.document, self.session
        whole = [n.name for n in s.nodes if isinstance(n, Shape) and plain_forms.stays_whole(document, n)]
        for node_id in s.selection:
            document = plain_forms.to_path(document, node_id)
        s.apply("form to path", document)
        if whole:
            s.say(
                f"{_named(whole)}: its light, what it holds or the steps from it need the whole word, so it became one path; without, letters"
            )

    def freeze(self) -> None:
        s = self.session
        try:
            with Waiting(self.desk.dialog_parent, "Freezing", "Making plain shapes …") as waiting:
                frozen = freeze.freeze(s.document, s.selection, waiting.stops)
        except Stopped:
            s.say("freezing was stopped; nothing has changed")
            return
        s.apply("freeze", frozen.document)
        if frozen.ids:
            s.select(frozen.ids)
        s.say(frozen.told)

    def line_to_outline(self, holes_filled: bool = False) -> None:
        s = self.session
        otherwise = otherwise_on_bands(s.document, s.selection)
        document, ids, count = line_to_outline(s.document, s.selection, holes_filled)
        s.apply("line to outline", document)
        s.select(ids)
        told = f"{count} line{'s' if count != 1 else ''} became {'shapes' if count != 1 else 'a shape'}"
        s.say(f"{told}; otherwise on the shape than on the line: {otherwise}" if otherwise else told)


def _named(names: list[str]) -> str:
    """A few names, and how many more there are."""
    some = ", ".join(f"'{n}'" for n in names[:3])
    return some + (f" and {len(names) - 3} more" if len(names) > 3 else "")
