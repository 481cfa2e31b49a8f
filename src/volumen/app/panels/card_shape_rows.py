"""Rows of a card that look at shapes: what a shadow falls on, what a sliver is cut by, how a body lies."""

from __future__ import annotations

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton

from volumen.app.panels.slot import IngredientSlot
from volumen.app.widgets.rows import labelled
from volumen.app.widgets.segment import ListBox

_EVERYTHING = "everything beneath"


def fit_row(slot: IngredientSlot) -> QHBoxLayout:
    """Turn a body along its shape."""
    line = labelled("")
    button = QPushButton("fit to shape")
    button.setToolTip("Turn the body along the direction in which the shape is longest")
    button.clicked.connect(lambda: slot.editor.fit_bodies(slot.index))
    line.addWidget(button)
    return line


def other_row(slot: IngredientSlot) -> QHBoxLayout:
    """The outline that a sliver is cut by."""
    line = labelled("cut by")
    box = ListBox()
    box.setAccessibleName("cut by")

    def fill() -> None:
        box.clear()
        box.addItem("no other outline", None)
        for node in slot.editor.other_outlines():
            box.addItem(f"only {node.name}", node.id)
        box.setCurrentIndex(max(box.findData(getattr(slot.ingredient, "other", None)), 0))

    box.activated.connect(lambda n: slot.change("change cut by", other=box.itemData(n)))
    line.addWidget(box, 1)
    slot.updates.append(fill)
    return line


def receivers_row(slot: IngredientSlot) -> QHBoxLayout:
    """The objects that a shadow is held to: a menu with a tick for each."""
    line = labelled("held to")
    button = QPushButton()
    button.setObjectName("menu")
    button.setAccessibleName("held to")
    button.setToolTip("What the shadow is held to: everything beneath, or only the objects with a tick")
    menu = QMenu(button)
    button.setMenu(menu)

    def chosen() -> tuple[int, ...]:
        return tuple(getattr(slot.ingredient, "receivers", ()))

    def put(receivers: tuple[int, ...]) -> None:
        slot.change("change what the shadow falls on", receivers=receivers)

    def turn(node_id: int, on: bool) -> None:
        put(tuple(r for r in chosen() if r != node_id) + ((node_id,) if on else ()))

    def fill() -> None:
        menu.clear()
        free = QAction(_EVERYTHING, menu, checkable=True, checked=not chosen())
        free.triggered.connect(lambda: put(()))
        menu.addAction(free)
        menu.addSeparator()
        for node in slot.editor.possible_receivers():
            action = QAction(node.name, menu, checkable=True, checked=node.id in chosen())
            action.triggered.connect(lambda on, i=node.id: turn(i, on))
            menu.addAction(action)

    def update() -> None:
        names = [n.name for n in slot.editor.other_outlines() if n.id in chosen()]
        text = _EVERYTHING if not names else f"only {names[0]}" if len(names) == 1 else f"{len(names)} objects"
        button.setText(f"\u2002{text}")  # a button with a menu keeps no room at its left

    menu.aboutToShow.connect(fill)
    line.addWidget(button, 1)
    slot.updates.append(update)
    return line
