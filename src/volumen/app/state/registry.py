"""The command registry: one row feeds menu, command list, toolbox, shortcut and help, and says what it needs."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.number import take_typed
from volumen.geometry.engine import PathOpError


@dataclass(frozen=True, slots=True)
class Need:
    """What a command needs before it can act: the question, and the answer in words when it is no."""

    met: Callable[[], bool]
    words: str


def _always() -> bool:
    return True


NOTHING = Need(_always, "")


class Shown(NamedTuple):
    """A place in the toolbox of a stage: the rows come in the order of ``at``; ``folded`` ones when asked for."""

    stage: Stage
    at: int
    folded: bool = False


@dataclass(frozen=True, slots=True)
class Command:
    """One row registers a command.

    ``keys`` in the toolkit's portable notation. ``menu`` is a title of the menu bar, with a submenu after a slash;
    what starts a new section of it carries ``section``. ``words`` are others that the command list finds it by.
    ``toolbox`` are its places in the toolbox, where it has an ``icon``, a ``short`` title, and ``tool`` if it takes one.
    """

    id: str
    title: str
    menu: str
    action: Callable[[], object]
    need: Need = NOTHING
    keys: str = ""
    section: bool = False
    more_keys: tuple[str, ...] = ()
    checked: Callable[[], bool] | None = None
    words: str = ""
    icon: str = ""
    short: str = ""
    toolbox: tuple[Shown, ...] = ()
    tool: str = ""
    key_hint: str = ""

    def enabled(self) -> bool:
        return self.need.met()


EDITS = (
    "Edit",
    "Object",
    "Ingredient",
    "Combine",
    "Colour",
    "Light",
)  # menus whose commands change or choose something


def is_single(keys: str) -> bool:
    """Whether a key is pressed alone or with Shift: such keys belong to what has the focus first."""
    name = keys.rpartition("+")[2] or "+"
    held = keys.split("+")[:-1]
    is_function = name.startswith("F") and name[1:].isdigit()
    return not is_function and name not in ("Del", "Backspace") and set(held) <= {"Shift"}


def offered(commands: Iterable[Command], stage: Stage) -> list[tuple[Shown, Command]]:
    """What the toolbox of a stage offers, in its order."""
    rows = [(shown, c) for c in commands for shown in c.toolbox if shown.stage == stage]
    return sorted(rows, key=lambda row: row[0].at)


class Registry:
    """All commands by id. ``session`` gets what a command that cannot act has to say."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._commands: dict[str, Command] = {}
        self._told = 0
        session.changed.connect(self._count)

    def _count(self, word: str) -> None:
        self._told += word not in (News.POINTER, News.PURITY)

    def add(self, *commands: Command) -> None:
        for command in commands:
            assert command.id not in self._commands, command.id
            self._commands[command.id] = command

    def __getitem__(self, command_id: str) -> Command:
        return self._commands[command_id]

    def __iter__(self) -> Iterator[Command]:
        return iter(self._commands.values())

    def run(self, command_id: str) -> bool:
        """Run a command if it can act; else, and where it changes nothing, it is said why. False if it cannot."""
        take_typed()
        command = self._commands[command_id]
        if not command.enabled():
            self.session.say(f"{command.title}: {command.need.words}")
            return False
        told = self._told
        try:
            command.action()
        except PathOpError as problem:  # outlines for which there is no answer
            self.session.refuse(f"{command.title}: {problem}")
            return False
        if self._told == told and command.menu.partition("/")[0] in EDITS:
            self.session.say(f"{command.title}: there is nothing to change")
        elif self._told == told and (command.tool or command.checked is not None):
            self.session.say(f"{command.title}: it is so already")
        return True
