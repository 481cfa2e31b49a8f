"""What canvas and tools say to each other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import tag
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.state.registry import Shown
from volumen.app.state.session import Session
from volumen.geometry.affine import Point
from volumen.model.limits import MAX_LENGTH
from volumen.model.nodes import Document
from volumen.outline.hit import hit


@dataclass(frozen=True, slots=True)
class Option:
    """A number that belongs to a tool; ``low`` and ``high`` are the slider's ends, what is typed may go from ``hard_low``
    to ``hard_high``."""

    name: str
    label: str
    default: float
    low: float = 0.0
    high: float = 100.0
    unit: str = ""
    hard_low: float = -MAX_LENGTH
    whole: bool = False
    hard_high: float = MAX_LENGTH
    is_length: bool = False


@dataclass(frozen=True, slots=True)
class Flag:
    """Something about a tool that is so or not."""

    name: str
    label: str
    default: bool = False


@dataclass(frozen=True, slots=True)
class Act:
    """A button among a tool's options: the method of the tool that it calls."""

    label: str
    method: str
    tip: str = ""


class Tool:
    """A tool's whole life: press, move while pressed (or hover), release. Escape cancels a gesture."""

    name = ""
    icon = ""
    keys = ""  # in the toolkit's portable notation
    toolbox: tuple[Shown, ...] = ()  # where the toolbox offers it; the first is its home
    key_hint = ""  # what the toolbox shows in place of the keys
    hint = ""
    cursor = Qt.CursorShape.ArrowCursor
    options: tuple[Option | Flag | Act, ...] = ()
    typing = False  # while True all keys with a letter go to ``text``

    def __init__(self, sheet: ToolSheet) -> None:
        self.sheet = sheet
        self.values: dict[str, float] = {o.name: o.default for o in self.options if not isinstance(o, Act)}

    @property
    def session(self) -> Session:
        return self.sheet.session

    def press(self, p: Pointer) -> None: ...

    def move(self, p: Pointer) -> None: ...

    def hover(self, p: Pointer) -> None: ...

    def release(self, p: Pointer) -> None: ...

    def double(self, p: Pointer) -> None: ...

    def key(self, key: int) -> bool:
        """A key while this tool is active; True if it was used."""
        return False

    def abandon(self) -> None:
        """The gesture under way ends as if it had not begun; its release does not come any more."""
        self.key(Qt.Key.Key_Escape)
        self.session.cancel()

    def drop(self) -> None:
        """What is under way goes, as another document is opened or something went wrong."""
        self.abandon()

    def wants(self, key: int) -> bool:
        """Whether this key must reach the tool even though a command has it as its shortcut."""
        return False

    def unfinished(self) -> Document | None:
        """The document as it would be if what is under way for more than one gesture ended now; None for nothing."""
        return None

    def text(self, letters: str) -> None:
        """Letters typed while ``typing``."""

    def option_changed(self, name: str, final: bool) -> None:
        """An option was set by hand; ``final`` when the hand has let go."""

    def leave(self) -> None:
        """Another tool takes over."""

    def under(self, p: Pointer, slack: float = 4.0) -> list[int]:
        """The ids from outermost to innermost of what lies under the pointer; ``slack`` in pixels widens thin things."""
        return hit(self.session.document, p.sheet, slack / self.sheet.viewport.scale)

    def tell(self, painter: QPainter, text: str) -> None:
        """A label beside the pointer; nothing for no text or while the pointer is elsewhere."""
        if text and self.sheet.pointer is not None:
            tag(painter, (self.sheet.pointer[0] + 14, self.sheet.pointer[1] + 12), text)

    def undo(self) -> bool:
        """Undo inside an unfinished gesture; True if there was something."""
        return False

    def paint(self, painter: QPainter) -> None: ...


class GripTool(Tool):
    """A tool whose grips on the selected shape are dragged: a press beside them chooses another shape."""

    slack = 4.0  # pixels within which a click chooses a thin shape

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.grabbed: Any = None  # the grip in hand, as the tool knows it
        self.before: Document | None = None
        self.readout = ""

    def grip_at(self, p: Pointer) -> Any:
        """The grip under the pointer; None if there is none."""
        raise NotImplementedError

    def make_grip(self, p: Pointer) -> Any:
        """A new grip where there was none, as an edit of its own; None for tools that make none there."""
        return None

    def press(self, p: Pointer) -> None:
        self.grabbed = self.grip_at(p)
        if self.grabbed is None:
            self.grabbed = self.make_grip(p)
        self.before = self.session.document
        if self.grabbed is None:
            self.session.select(self.under(p, self.slack)[-1:])

    def let_go(self, label: str) -> None:
        """End a drag as one step of undo."""
        self.session.commit(label)
        self.grabbed, self.before, self.readout = None, None, ""
        self.sheet.update()

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.grabbed is not None:
            self.session.cancel()
            self.grabbed = None
            return True
        return False


def near(a: Point, b: Point, reach: float = 9.0) -> bool:
    return abs(a[0] - b[0]) <= reach and abs(a[1] - b[1]) <= reach


def rounded_to(value: float, step: float) -> float:
    return round(value / step) * step
