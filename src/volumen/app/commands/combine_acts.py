"""Combining, knockouts, and joining of ends."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from volumen.app.commands.desk import Desk
from volumen.devices.cover import DeviceProblem
from volumen.edit import combine, combined_looks, joining, objects, rays
from volumen.edit.die_lines import with_die_line
from volumen.geometry.engine import PathOpError
from volumen.model.nodes import Combining, Document
from volumen.model.tree import walk

replace = msgspec.structs.replace


class CombineActs:
    """Makes one outline of several, or takes one out of another."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session

    def combine(self, operation: Combining, live: bool = True) -> None:
        s = self.session
        dropped = combined_looks.looks_dropped(s.document, s.selection, operation)
        try:
            if live:
                document, made = combine.combine(s.document, s.selection, operation)
                ids = [made] if made is not None else []
            else:
                document, ids = combine.combine_once(s.document, s.selection, operation)
        except (PathOpError, combine.LeavesNothing) as error:
            s.say(f"{operation}: {error}")
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

    def die_line(self) -> None:
        """Draw the line that a cutter follows round the artwork, with the numbers of the Proof stage."""
        s = self.session
        try:
            document, line = with_die_line(s.document, s.proofing.cutter)
        except DeviceProblem as problem:
            s.say(str(problem))
            return
        s.apply("die line", document)
        s.select((line,))
        s.say("it follows the artwork until it is moved by hand; its card has its gap and blade")

    def stock(self) -> None:
        """Mark what the artwork is judged on: knockouts leave it alone."""
        s = self.session
        value = not s.nodes[0].stock
        s.apply("stock", objects.set_fields(s.document, s.selection, stock=value))
        s.say("marked as stock: no knockout cuts it" if value else "no stock any more: knockouts cut it")

    def bound_rays(self, inside: bool) -> None:
        """Let rays stay inside an object, or keep out of it."""
        s = self.session
        found = rays.rays_and_bound(s.nodes)
        if found is not None:
            s.apply("bound rays", rays.bound(s.document, *found, inside))
            s.select([found[0]])

    def release_rays(self) -> None:
        s = self.session
        document, free = s.document, []
        for node_id in s.selection:
            document, made = rays.released(document, node_id)
            free += made
        s.apply("release bounds", document)
        s.select([*s.selection, *free])

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
