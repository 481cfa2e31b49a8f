"""Finding objects."""

from __future__ import annotations

import msgspec

from volumen.app.commands.desk import Desk
from volumen.app.state.news import News
from volumen.edit import search
from volumen.edit.search import Likeness
from volumen.model.nodes import Shape
from volumen.model.tree import changed_nodes, find, walk

replace = msgspec.structs.replace


_MOST_TOLD = 20  # shapes of one edit that are looked at


class FindActs:
    """Chooses what is alike, what lies twice, and what is left over; tells when an edit lays a shape on its double."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session
        self._seen = self.session.document
        self.session.on((News.DOCUMENT,), self._tell_doubles)

    def _tell_doubles(self) -> None:
        s = self.session
        if s.history.in_gesture or s.document is self._seen:
            return
        before, self._seen = self._seen, s.document
        changed = [new for _, new in changed_nodes(before.root, s.document.root)]
        old = {n.id for n in walk(before.root)} if len(changed) < _MOST_TOLD else set()
        ids = [n.id for n in changed if isinstance(n, Shape)]
        ids += [n.id for g in changed for n in g.children if n.id not in old and isinstance(n, Shape)]
        if not ids or len(ids) > _MOST_TOLD:
            return
        for one, other in search.lying_on(s.document, ids)[:1]:
            a, b = find(s.document, one), find(s.document, other)
            assert a is not None and b is not None
            s.say(f"'{a.name}' lies exactly on '{b.name}', which looks the same")

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
