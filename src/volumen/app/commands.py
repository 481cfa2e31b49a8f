"""The command registry: one entry feeds menu, command list, shortcut and help, and says what it needs."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

from volumen.app.session import Session
from volumen.geometry.engine import PathOpError


@dataclass(frozen=True, slots=True)
class Need:
    """What a command needs before it can act: the question, and the answer in words when it is no."""

    met: Callable[[], bool]
    words: str


def _always() -> bool:
    return True


NOTHING = Need(_always, "")


@dataclass(frozen=True, slots=True)
class Command:
    """``keys`` in the toolkit's portable notation. ``menu`` is a title of the menu bar, with a submenu after a slash;
    what starts a new section of it carries ``section``. ``words`` are others that the command list finds it by."""

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


class Registry:
    """All commands by id. ``session`` gets what a command that cannot act has to say."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._commands: dict[str, Command] = {}
        self._actions: dict[str, QAction] = {}
        self._told = 0
        session.changed.connect(self._count)

    def _count(self, word: str) -> None:
        self._told += word not in ("pointer", "purity")

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
        return True

    def fill_menus(self, bar: QMenuBar, window: QWidget, order: tuple[str, ...], sheets: tuple[QWidget, ...]) -> None:
        """Make the menus and the shortcuts; keys pressed alone act only while one of the ``sheets`` has the focus."""
        menus: dict[str, QMenu] = {title: bar.addMenu(title) for title in order}
        for command in self:
            menu = self._menu(menus, command.menu)
            if command.section:
                menu.addSeparator()
            action = QAction(command.title, window)
            single = bool(command.keys) and all(is_single(k) for k in (command.keys, *command.more_keys))
            if command.keys:
                action.setShortcuts([QKeySequence(k) for k in (command.keys, *command.more_keys)])
            if single:
                action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            action.setCheckable(command.checked is not None)
            action.triggered.connect(lambda _=False, c=command.id: self.run(c))
            menu.addAction(action)
            for owner in sheets if single else (window,):
                owner.addAction(action)
            self._actions[command.id] = action
        for menu in menus.values():
            menu.setToolTipsVisible(True)
            menu.aboutToShow.connect(self.refresh)
            menu.aboutToHide.connect(self.release_keys)

    def _menu(self, menus: dict[str, QMenu], path: str) -> QMenu:
        """The menu of a path, made as a submenu where it is first asked for."""
        if path not in menus:
            outer, _, title = path.rpartition("/")
            menus[path] = self._menu(menus, outer).addMenu(title)
        return menus[path]

    def refresh(self) -> None:
        """Bring enablement and check marks up to date."""
        for command_id, action in self._actions.items():
            command = self._commands[command_id]
            can = command.enabled()
            action.setEnabled(can)
            action.setToolTip(command.title if can else f"{command.title}: {command.need.words}")
            action.setStatusTip("" if can else command.need.words)
            if command.checked is not None:
                action.setChecked(command.checked())

    def release_keys(self) -> None:
        """Enable all actions again, so that a shortcut reaches ``run``, which asks for what it needs itself."""
        for action in self._actions.values():
            action.setEnabled(True)
