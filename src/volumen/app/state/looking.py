"""How the work is looked at, and the one channel of news."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from volumen.app.state.news import News, Stage
from volumen.app.state.proofing import Proofing
from volumen.geometry.snap import KINDS
from volumen.picture.purity import Purity


class Looking(QObject):
    """``changed`` carries one of ``News``. Widgets read state back from here and write only through these methods, so nothing
    echoes."""

    changed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.tool = "move"
        self.stage = Stage.DRAW
        self.flat = False
        self.values = False  # seen in greys of the same lightness
        self.muted = False  # the open ingredient, or all light of what is selected, left out while a key is held
        self.note = ""
        self.proofing = Proofing()
        self.snapping = True
        self.snap_kinds: frozenset[str] = frozenset(k for k in KINDS if k not in ("handles", "grid"))
        self.rulers = False
        self.keep_lengths = False  # scaling leaves line widths, radii and light distances as they are
        self.isolated: int | None = None  # the branch that is worked in; all else is dimmed and left alone
        self.purity: dict[int, Purity] = {}  # what exports will hold, by node; told a moment after each edit

    def set_tool(self, tool: str) -> None:
        if tool != self.tool:
            self.tool = tool
            self.tell(News.TOOL)

    def set_stage(self, stage: Stage) -> None:
        if stage != self.stage:
            self.stage = Stage(stage)
            self.tell(News.STAGE)

    def set_flat(self, flat: bool) -> None:
        if flat != self.flat:
            self.flat = flat
            self.tell(News.LOOK)

    def set_look(self, **values: object) -> None:
        """Snapping, rulers, isolation: how the work is looked at, not what it is."""
        for name, value in values.items():
            setattr(self, name, value)
        self.tell(News.LOOK)

    def set_proofing(self, **values: Any) -> None:
        """What hangs on the wall of proofs, and how it is proofed."""
        changed = replace(self.proofing, **values)
        if changed != self.proofing:
            self.proofing = changed
            self.tell(News.PROOF)

    def say(self, note: str) -> None:
        """A line for the status bar: what just happened, or what went wrong."""
        self.note = note
        self.tell(News.NOTE)

    def set_purity(self, purity: dict[int, Purity]) -> None:
        self.purity = purity
        self.tell(News.PURITY)

    def tell(self, *news: News) -> None:
        for word in news:
            self.changed.emit(word)

    def on(self, news: tuple[News, ...], call: Callable[[], None]) -> None:
        """Call when one of some news is told."""
        wanted = set(news)
        self.changed.connect(lambda word: call() if word in wanted else None)
