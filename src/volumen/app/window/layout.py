"""The window's panels: folded, fitted to the screen, with a line for problems above them."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMainWindow, QSplitter, QToolButton, QWidget

from volumen.app import theme
from volumen.app.engine.settings import remembered
from volumen.app.state.session import Session

LEFT_PANEL, RIGHT_PANEL = (176, 212), (250, 300)  # least and usual widths of the panels
_SIDES = {"left": 0, "right": 2}
_TITLE_BAR = 40  # what a window manager takes above a window


class LaidOut(QMainWindow):
    """A window with panels at its sides and a line for problems."""

    def __init__(self) -> None:
        super().__init__()
        self.session = Session()
        self.panes = QSplitter(Qt.Orientation.Horizontal)

    def _notice_bar(self) -> QWidget:
        """A line for problems: it stays until it is closed, and covers nothing."""
        self._notice = QWidget()
        self._notice.setStyleSheet(f"background: {theme.VERMILION};")
        row = QHBoxLayout(self._notice)
        row.setContentsMargins(14, 4, 8, 4)
        self._notice_text = QLabel()
        self._notice_text.setStyleSheet("color: white; font-weight: 500;")
        self._notice_text.setWordWrap(True)
        row.addWidget(self._notice_text, 1)
        close = QToolButton()
        close.setIcon(theme.icon("x", "#ffffff"))
        close.setAccessibleName("close notice")
        close.clicked.connect(self._notice.hide)
        row.addWidget(close)
        self._notice.hide()
        return self._notice

    def notice(self, message: str) -> None:
        self._notice_text.setText(message)
        self._notice.show()

    def fit_screen(self) -> None:
        """Open no larger than the screen leaves under a title bar, with the panels as they were left."""
        free = self.screen().availableGeometry()
        self.resize(min(1280, free.width()), min(800, free.height() - _TITLE_BAR))
        sizes = remembered().value("panes")
        if isinstance(sizes, list) and len(sizes) == 3 and all(str(v).isdigit() for v in sizes):
            self.panes.setSizes([int(v) for v in sizes])

    def folded(self, side: str) -> bool:
        return self.panes.sizes()[_SIDES[side]] == 0

    def fold(self, side: str) -> None:
        """Fold a side panel away, or show it again."""
        sizes, k = self.panes.sizes(), _SIDES[side]
        usual = (LEFT_PANEL if side == "left" else RIGHT_PANEL)[1]
        sizes[1] += sizes[k] if sizes[k] else -usual
        sizes[k] = 0 if sizes[k] else usual
        self.panes.setSizes(sizes)
        remembered().setValue("panes", self.panes.sizes())
        self.session.set_look()

    def toggle_full(self) -> None:
        self.showNormal() if self.isFullScreen() else self.showFullScreen()
