"""Menus and shortcuts, made from the command registry."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

from volumen.app.state.registry import Registry, is_single


class Menus:
    """The menu bar and the shortcuts; keys pressed alone act only while one of the ``sheets`` has the focus."""

    def __init__(
        self, registry: Registry, bar: QMenuBar, window: QWidget, order: tuple[str, ...], sheets: tuple[QWidget, ...]
    ) -> None:
        self.registry = registry
        self._actions: dict[str, QAction] = {}
        menus: dict[str, QMenu] = {title: bar.addMenu(title) for title in order}
        for command in registry:
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
            action.triggered.connect(lambda _=False, c=command.id: self.registry.run(c))
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
            command = self.registry[command_id]
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
