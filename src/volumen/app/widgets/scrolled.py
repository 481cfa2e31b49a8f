"""Scroll areas: as high as what they show where there is room, and what they show exchanged in safety."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QWidget

_leaving: set[QWidget] = set()  # held until they are deleted


def show_body(area: QScrollArea, body: QWidget) -> None:
    """Let a scroll area show another body. The old one goes when no event is under way any more: the area itself
    deletes it at once, and a field whose entry led here would be gone before it has done with its key."""
    old = area.widget()
    if old is None:
        area.setWidget(body)
        return
    for child in old.findChildren(QWidget):
        child.blockSignals(True)  # what was typed and not entered is not taken now: it belonged to what was there
    area.takeWidget()  # takes the focus from a field at once
    area.setWidget(body)
    old.hide()
    old.setParent(None)
    _leaving.add(old)
    old.destroyed.connect(lambda: _leaving.discard(old))
    old.deleteLater()


class Scrolled(QScrollArea):
    """Shows a panel whole where there is room for it, and scrolls it where there is not: a panel that grows never makes
    the window higher than the screen."""

    _LEAST = 160

    def __init__(self, body: QWidget, share: float = 0.75) -> None:
        """``share``: the most of the window's height that it takes, so that what lies beside it keeps a place."""
        super().__init__()
        self.body, self._share = body, share
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setObjectName("side")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        body.setObjectName("side")
        body.installEventFilter(self)
        self.setWidget(body)

    def sizeHint(self) -> QSize:
        wanted = self.body.sizeHint()
        return QSize(wanted.width(), min(wanted.height(), int(self.window().height() * self._share)))

    def minimumSizeHint(self) -> QSize:
        width = self.body.minimumSizeHint().width() + self.verticalScrollBar().sizeHint().width()
        return QSize(width, min(self.body.sizeHint().height(), self._LEAST))

    def settle(self) -> None:
        """Take the new heights at once: by events of its own the panel would be squeezed for two or three frames."""
        layout, beside = self.body.layout(), self.parentWidget()
        if layout is None:
            return
        layout.activate()
        self.updateGeometry()
        if beside is not None and beside.layout() is not None:
            beside.layout().activate()  # type: ignore[union-attr]
        room = self.viewport().size()
        self.body.resize(room.width(), max(room.height(), self.body.minimumSizeHint().height()))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.body and event.type() == QEvent.Type.LayoutRequest:
            self.settle()
        return super().eventFilter(watched, event)
