"""Choices in a row: buttons beside each other, and lists that take no more room than there is."""

from __future__ import annotations

from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QComboBox, QSizePolicy, QToolButton

_LIST_WIDTH = 150  # of what unfolds


class ListBox(QComboBox):
    """A list to choose from. The wheel over it moves the panel that it lies in and chooses nothing: artwork would change
    under a hand that only scrolls."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


def segment(text: str, checkable: bool = True, exclusive: bool = False, wide: bool = False) -> QToolButton:
    """A button of a row of choices; a ``wide`` one fills its share of the row."""
    button = QToolButton()
    button.setText(text)
    button.setCheckable(checkable)
    button.setAutoExclusive(exclusive)
    button.setObjectName("segment")
    if wide:
        button.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
    return button


def narrow(box: QComboBox) -> QComboBox:
    """A list that takes no more room than it is given."""
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(1)
    box.view().setMinimumWidth(_LIST_WIDTH)
    return box
