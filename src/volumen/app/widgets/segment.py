"""A button of a row of choices."""

from __future__ import annotations

from PySide6.QtWidgets import QToolButton


def segment(text: str, checkable: bool = True, exclusive: bool = False) -> QToolButton:
    button = QToolButton()
    button.setText(text)
    button.setCheckable(checkable)
    button.setAutoExclusive(exclusive)
    button.setObjectName("segment")
    return button
