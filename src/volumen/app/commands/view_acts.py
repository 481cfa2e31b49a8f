"""How the work is looked at."""

from __future__ import annotations

import msgspec

from volumen.app.canvas.handles import next_colour
from volumen.app.commands.desk import Desk
from volumen.edit import objects
from volumen.model.nodes import Image
from volumen.model.tree import find

replace = msgspec.structs.replace


class ViewActs:
    """Isolating a branch, guides, snapping, and dimming a reference."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session

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

    def fit(self) -> None:
        """Show the whole sheet."""
        canvas = self.desk.canvas
        before = canvas.viewport
        canvas.fit()
        if canvas.viewport == before:
            self.session.say("the whole sheet is in view")

    def recolour_guides(self) -> None:
        next_colour()
        self.desk.canvas.update()
        self.session.say("guides and handles are drawn in the next colour")

    def toggle_kind(self, kind: str) -> None:
        self.session.set_look(snap_kinds=self.session.snap_kinds ^ {kind})

    def clear_guides(self) -> None:
        self.session.apply("remove guides", replace(self.session.document, guides=()))

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
