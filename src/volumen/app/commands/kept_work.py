"""Work that can be had back: what was left behind by a crash, and earlier states of documents, with pictures and times."""

from __future__ import annotations

import time

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from volumen.app import theme
from volumen.app.commands.desk import Desk
from volumen.app.commands.documents import Documents
from volumen.app.engine import recovery

_SIDE = 64


class KeptWork(QDialog):
    """A list beside the artwork; what is chosen opens as unsaved work."""

    def __init__(self, parent: QWidget, files: Documents, found: list[recovery.Found]) -> None:
        super().__init__(parent)
        self.files = files
        self.setWindowTitle("Kept work")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(460, 420)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(10)
        self.lead = QLabel(_lead(found))
        self.lead.setWordWrap(True)
        column.addWidget(self.lead)
        self.list = QListWidget()
        self.list.setAccessibleName("kept work")
        self.list.setIconSize(QSize(_SIDE, _SIDE))
        self.list.setStyleSheet(
            f"QListWidget {{ background: {theme.CARD}; border: 1px solid {theme.EDGE}; border-radius: 6px; }}"
            "QListWidget::item { padding: 6px; }"
        )
        self.list.itemDoubleClicked.connect(self.recover)
        column.addWidget(self.list, 1)
        for one in found:
            self.list.addItem(_item(one))
        self.list.setCurrentRow(0)
        column.addLayout(self._buttons(bool(found)))

    def _buttons(self, any_found: bool) -> QHBoxLayout:
        row = QHBoxLayout()
        self.open_button = QPushButton("Open it")
        self.open_button.setObjectName("main")
        self.open_button.setDefault(True)
        self.open_button.setEnabled(any_found)
        self.open_button.clicked.connect(self.recover)
        later = QPushButton("Leave it for later")
        later.clicked.connect(self.reject)
        row.addStretch(1)
        row.addWidget(later)
        row.addWidget(self.open_button)
        return row

    def recover(self) -> None:
        item = self.list.currentItem()
        if item is None or not self.files.may_leave():
            return
        if self.files.recover(item.data(Qt.ItemDataRole.UserRole)):
            self.accept()
        else:  # it was put aside: the others are still there
            self.list.takeItem(self.list.row(item))
            self.open_button.setEnabled(self.list.count() > 0)


def _lead(found: list[recovery.Found]) -> str:
    left = sum(f.left for f in found)
    if left:
        what = "One document was" if left == 1 else f"{left} documents were"
        return f"{what} left behind unsaved when Volumen ended without being closed. Below are earlier states."
    if found:
        return "Earlier states of documents, kept for a week: the last ten of each that were saved or discarded."
    return "Nothing is kept. What you save or discard from now on can be had back here for a week."


def _item(found: recovery.Found) -> QListWidgetItem:
    when = time.strftime("%A %d %B, %H:%M:%S", time.localtime(found.written))
    state = "left behind, not saved" if found.left else "earlier state"
    where = f"\n{found.about.path}" if found.about.path else ""
    item = QListWidgetItem(f"{found.about.name}  ·  {state}\n{when}{where}")
    item.setData(Qt.ItemDataRole.UserRole, found)
    item.setToolTip(str(found.file))
    picture, icon = _picture(found.preview()), QIcon()
    for mode in (QIcon.Mode.Normal, QIcon.Mode.Selected):  # not tinted where it is chosen
        icon.addPixmap(picture, mode)
    item.setIcon(icon)
    return item


def _picture(png: bytes) -> QPixmap:
    """The preview within a square; plain paper where there is none."""
    square = QPixmap(_SIDE, _SIDE)
    square.fill(Qt.GlobalColor.transparent)
    image = QImage.fromData(png) if png else QImage()
    painter = QPainter(square)
    if image.isNull():
        painter.fillRect(8, 4, _SIDE - 16, _SIDE - 8, QColor("white"))
    else:
        mode = Qt.TransformationMode.SmoothTransformation
        small = image.scaled(_SIDE, _SIDE, Qt.AspectRatioMode.KeepAspectRatio, mode)
        painter.drawImage((_SIDE - small.width()) // 2, (_SIDE - small.height()) // 2, small)
    painter.end()
    return square


def show_kept_work(desk: Desk, files: Documents) -> None:
    """Show what was left behind by a crash, and earlier states."""
    KeptWork(desk.dialog_parent, files, [*recovery.left_behind(), *recovery.earlier()]).open()
