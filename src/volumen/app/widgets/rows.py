"""Lines of a panel."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel


def quiet_label(text: str) -> QLabel:
    """Words beside what they name."""
    label = QLabel(text)
    label.setObjectName("quiet")
    return label


def heading_label(text: str) -> QLabel:
    """Words over what belongs together."""
    label = QLabel(text)
    label.setObjectName("heading")
    return label


def labelled(text: str) -> QHBoxLayout:
    line = QHBoxLayout()
    line.setSpacing(6)
    label = quiet_label(text)
    label.setFixedWidth(76)
    line.addWidget(label)
    return line
