"""Finding objects."""

from __future__ import annotations

import msgspec

from volumen.app.commands.desk import Desk
from volumen.edit import search
from volumen.edit.search import Likeness

replace = msgspec.structs.replace


class FindActs:
    """Chooses what is alike, what lies twice, and what is left over."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session

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
