"""Lines of a panel."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel


def labelled(text: str) -> QHBoxLayout:
    line = QHBoxLayout()
    line.setSpacing(6)
    label = QLabel(text)
    label.setObjectName("quiet")
    label.setFixedWidth(76)
    line.addWidget(label)
    return line
