"""The command registry: one entry feeds menu, command list, shortcut and help."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget


def _always() -> bool:
    return True


@dataclass(frozen=True, slots=True)
class Command:
    """``keys`` in the toolkit's portable notation. ``menu`` is one of the menu bar's titles; a title that
    starts a new section of it carries ``section``. ``local`` keys act only while the canvas has the focus."""

    id: str
    title: str
    menu: str
    action: Callable[[], object]
    enabled: Callable[[], bool] = _always
    keys: str = ""
    section: bool = False
    more_keys: tuple[str, ...] = ()
    checked: Callable[[], bool] | None = None


class Registry:
    def __init__(self) -> None:
        self._commands: dict[str, Command] = {}
        self._actions: dict[str, QAction] = {}

    def add(self, *commands: Command) -> None:
        for command in commands:
            assert command.id not in self._commands, command.id
            self._commands[command.id] = command

    def __getitem__(self, command_id: str) -> Command:
        return self._commands[command_id]

    def __iter__(self) -> Iterator[Command]:
        return iter(self._commands.values())

    def run(self, command_id: str) -> bool:
        """Run a command if it is enabled; False if it is not."""
        command = self._commands[command_id]
        if not command.enabled():
            return False
        command.action()
        return True

    def fill_menus(self, bar: QMenuBar, window: QWidget, order: tuple[str, ...]) -> None:
        """Make the menus and the shortcuts."""
        menus: dict[str, QMenu] = {title: bar.addMenu(title) for title in order}
        for command in self:
            menu = menus[command.menu]
            if command.section:
                menu.addSeparator()
            action = QAction(command.title, window)
            if command.keys:
                action.setShortcuts([QKeySequence(k) for k in (command.keys, *command.more_keys)])
            action.setCheckable(command.checked is not None)
            action.triggered.connect(lambda _=False, c=command.id: self.run(c))
            menu.addAction(action)
            window.addAction(action)
            self._actions[command.id] = action
        for menu in menus.values():
            menu.aboutToShow.connect(self.refresh)
            menu.aboutToHide.connect(self.release_keys)

    def refresh(self) -> None:
        """Bring enablement and check marks up to date."""
        for command_id, action in self._actions.items():
            command = self._commands[command_id]
            action.setEnabled(command.enabled())
            if command.checked is not None:
                action.setChecked(command.checked())

    def release_keys(self) -> None:
        """Enable all actions again, so that a shortcut reaches ``run``, which asks for enablement itself."""
        for action in self._actions.values():
            action.setEnabled(True)
