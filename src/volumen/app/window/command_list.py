"""The searchable command list, and the list of keys: both from the registry."""

from __future__ import annotations

import html

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QColor, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QTextBrowser, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.commands.tables import MENUS
from volumen.app.state.registry import Command, Registry


def shown_keys(keys: str) -> str:
    return QKeySequence(keys).toString(QKeySequence.SequenceFormat.NativeText) if keys else ""


class CommandList(QFrame):
    """Type a few letters, Enter runs. Escape closes."""

    def __init__(self, window: QWidget, registry: Registry) -> None:
        super().__init__(window, Qt.WindowType.Popup)
        self.owner, self.registry = window, registry
        self.setObjectName("card")
        self.setStyleSheet(f"QFrame#card {{ background: {theme.PLASTER}; }}")
        self.resize(440, 380)
        column = QVBoxLayout(self)
        self.field = QLineEdit()
        self.field.setPlaceholderText("find a command")
        self.field.setAccessibleName("find a command")
        self.field.textChanged.connect(self.fill)
        self.field.installEventFilter(self)
        column.addWidget(self.field)
        self.list = QListWidget()
        self.list.setStyleSheet(
            "QListWidget { border: none; background: transparent; } QListWidget::item { padding: 4px; }"
        )
        self.list.itemActivated.connect(self.run)
        self.list.itemClicked.connect(self.run)
        column.addWidget(self.list)

    def open(self) -> None:
        parent = self.owner
        self.field.clear()
        self.fill("")
        corner = parent.mapToGlobal(parent.rect().topLeft())
        self.move(corner.x() + (parent.width() - self.width()) // 2, corner.y() + 110)
        self.show()
        self.field.setFocus()

    def fill(self, text: str) -> None:
        """The commands that fit, those that can act now first; the first is the chosen one."""
        words = text.lower().split()
        found = [(fit, c) for c in self.registry if (fit := _fit(c, words)) is not None]
        found.sort(key=lambda f: (not f[1].enabled(), f[0]))
        self.list.clear()
        for _, command in found:
            keys = shown_keys(command.keys)
            item = QListWidgetItem(command.title + (f"      {keys}" if keys else ""))
            item.setData(Qt.ItemDataRole.UserRole, command.id)
            if not command.enabled():
                item.setText(f"{item.text()}      {command.need.words}")
                item.setForeground(QColor(theme.FAINT))
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(max(0, min(self.list.currentRow() + step, self.list.count() - 1)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.list.currentItem():
                self.run(self.list.currentItem())
                return True
        return super().eventFilter(watched, event)

    def run(self, item: QListWidgetItem) -> None:
        self.hide()
        self.registry.run(item.data(Qt.ItemDataRole.UserRole))


def _fit(command: Command, words: list[str]) -> int | None:
    """How well a command fits what was typed: 0 its title begins so, up to 3 by other words; None not at all."""
    title = command.title.lower()
    if all(w in title for w in words):
        if not words or title.startswith(words[0]):
            return 0
        return 1 if all(any(t.startswith(w) for t in title.replace(":", " ").split()) for w in words) else 2
    return 3 if all(w in f"{title} {command.words} {command.menu.lower()}" for w in words) else None


def help_view(window: QWidget, registry: Registry) -> QTextBrowser:
    """A window of its own with every command and its keys."""
    rows = []
    for menu in MENUS:
        rows.append(f"<tr><td colspan=2><h3>{menu}</h3></td></tr>")
        for command in registry:
            if command.menu.partition("/")[0] == menu:
                rows.append(
                    f"<tr><td width=330>{html.escape(command.title)}</td><td><b>{html.escape(shown_keys(command.keys))}</b></td></tr>"
                )
    rows.append("<tr><td colspan=2><h3>On the sheet</h3></td></tr>")
    for what, keys in (
        ("Grab the lamp from anywhere", "hold L"),
        ("See the artwork without the open ingredient, or the selection without its light", "hold Z"),
        ("Move the view", "Space or middle button, drag; wheel"),
        ("Zoom at the pointer", "Ctrl+wheel"),
    ):
        rows.append(f"<tr><td>{what}</td><td><b>{keys}</b></td></tr>")
    view = QTextBrowser(window)
    view.setWindowFlag(Qt.WindowType.Window)
    view.setWindowTitle("Keys and commands")
    view.setHtml(f"<table cellpadding=3>{''.join(rows)}</table>")
    view.resize(620, 640)
    return view
