"""Rows of a card with widgets of their own: dashes, width profiles, easing curves."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QLineEdit, QPushButton, QToolButton, QWidget

from volumen.app import theme
from volumen.app.panels.slot import IngredientSlot
from volumen.app.widgets.ease import EaseBox
from volumen.app.widgets.rows import labelled
from volumen.app.widgets.segment import ListBox, narrow
from volumen.edit.strokes import read_dashes, save_profile
from volumen.geometry.ease import EVEN, Ease
from volumen.geometry.widths import Profile
from volumen.model.catalogue.rows import Easing
from volumen.model.ingredients import Line, Thickness

PRESETS: dict[str, Profile | None] = {
    "even": None,
    "tapered at both ends": ((0.0, 0.0, 0.0), (0.5, 1.0, 1.0), (1.0, 0.0, 0.0)),
    "tapered towards the end": ((0.0, 1.0, 1.0), (1.0, 0.0, 0.0)),
    "tapered towards the start": ((0.0, 0.0, 0.0), (1.0, 1.0, 1.0)),
    "leaf": ((0.0, 0.0, 0.0), (0.3, 1.0, 1.0), (1.0, 0.0, 0.0)),
    "one-sided": ((0.0, 0.0, 0.0), (0.5, 2.0, 0.0), (1.0, 0.0, 0.0)),
}
EASES: dict[str, Ease] = {
    "even": EVEN,
    "crowded at the start": (0.6, 0.1, 0.8, 0.6),
    "crowded at the end": (0.2, 0.4, 0.4, 0.9),
    "crowded at both ends": (0.6, 0.0, 0.4, 1.0),
    "crowded in the middle": (0.1, 0.6, 0.9, 0.4),
}
_DRAWN = "drawn"
_SAVE = "save under a name …"


def dashes_row(slot: IngredientSlot) -> QHBoxLayout:
    """Lengths drawn and left, typed one after another."""
    line = labelled("dashes")
    field = QLineEdit()
    field.setAccessibleName("dashes")
    field.setPlaceholderText("none, or 12 6")
    field.setToolTip("Lengths drawn and left out, one after another: 12 6 2 6")

    def done() -> None:
        dashes = read_dashes(field.text())
        if dashes is None:
            slot.session.say("dashes are lengths with blanks between, such as 12 6")
            update()
        else:
            slot.change("change dashes", dashes=dashes)

    def update() -> None:
        assert isinstance(slot.ingredient, Line)
        if not field.hasFocus():
            field.setText(" ".join(f"{d:g}" for d in slot.ingredient.dashes))

    field.editingFinished.connect(done)
    line.addWidget(field, 1)
    slot.updates.append(update)
    return line


def omitted_row(slot: IngredientSlot) -> QWidget:
    """How many pieces were clicked away, and a button that puts them back; nothing for none."""
    holder = QWidget()
    line = QHBoxLayout(holder)
    line.setContentsMargins(0, 0, 0, 0)
    count = QLabel()
    count.setObjectName("quiet")
    back = QPushButton("put back")
    back.setAccessibleName("put all pieces back")
    back.setToolTip("Shows all pieces again that were clicked away with the Broken lines tool")
    back.clicked.connect(lambda: slot.change("put pieces back", omitted=()))
    line.addWidget(count, 1)
    line.addWidget(back)

    def update() -> None:
        gone = len(getattr(slot.ingredient, "omitted", ()))
        count.setText(f"{gone} piece{'s' if gone > 1 else ''} clicked away")
        holder.setVisible(gone > 0)

    slot.updates.append(update)
    return holder


def profile_row(slot: IngredientSlot) -> QHBoxLayout:
    """How the width runs along the line: ready ones, saved ones, and saving the one in use."""
    line = labelled("profile")
    box = ListBox()
    box.setAccessibleName("width profile")
    box.setToolTip("Drag the widths on the canvas with the Widths tool")
    name = QLineEdit()
    name.setPlaceholderText("name of the profile")
    name.hide()

    def choices() -> dict[str, Profile | None]:
        saved = {p.name: p.profile for p in slot.session.document.profiles}
        return {**PRESETS, **saved}

    def update() -> None:
        i = slot.ingredient
        assert isinstance(i, Line | Thickness)
        known = choices()
        box.blockSignals(True)
        box.clear()
        box.addItems(list(known))
        own = next((k for k, v in known.items() if v == i.profile), None)
        if own is None:
            own = _DRAWN
            box.addItem(own)
        if i.profile is not None:
            box.addItem(_SAVE)
        box.setCurrentText(own)
        box.blockSignals(False)

    def chosen(at: int) -> None:
        word = box.itemText(at)
        if word == _SAVE:
            name.show()
            name.setFocus()
        elif word in choices():
            slot.change("change width profile", profile=choices()[word])

    def save() -> None:
        i = slot.ingredient
        assert isinstance(i, Line | Thickness)
        if name.text().strip() and i.profile is not None:
            session = slot.session
            session.apply("save width profile", save_profile(session.document, name.text().strip()[:60], i.profile))
        name.hide()

    box.activated.connect(chosen)
    name.returnPressed.connect(save)
    line.addWidget(box, 1)
    line.addWidget(name, 1)
    slot.updates.append(update)
    return line


def ease_row(slot: IngredientSlot, row: Easing) -> QHBoxLayout:
    """An easing curve to draw by its handles, with ready ones beside it."""
    line = labelled(row.label)
    box = EaseBox(row.label)
    box.preview.connect(lambda v: slot.preview(**{row.field: v}))
    box.done.connect(lambda v: slot.change(f"change {row.label}", **{row.field: v}))
    ready = narrow(ListBox())
    ready.setAccessibleName(f"{row.label} curve")
    ready.addItems([*EASES, _DRAWN])
    ready.activated.connect(
        lambda n: (
            slot.change(f"change {row.label}", **{row.field: EASES[ready.itemText(n)]})
            if ready.itemText(n) in EASES
            else update()
        )
    )

    def update() -> None:
        value = getattr(slot.ingredient, row.field)
        box.show_ease(value)
        ready.setCurrentText(next((k for k, v in EASES.items() if v == value), _DRAWN))

    line.addWidget(box)
    line.addWidget(ready, 1)
    slot.updates.append(update)
    return line


def scope_row(slot: IngredientSlot, parent: QWidget) -> QHBoxLayout:
    """Whether an ingredient of a group acts on the group as one, or on each child by itself."""
    line = labelled("acts on")
    group = QButtonGroup(parent)
    scopes = (("group", "as one", "the group as one"), ("component", "each", "each by itself"))
    for k, (icon, text, meaning) in enumerate(scopes):
        button = QToolButton()
        button.setIcon(theme.icon(icon))
        button.setText(text)
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        button.setCheckable(True)
        button.setAccessibleName(meaning)
        button.setToolTip(f"acts on {meaning}")
        group.addButton(button, k)
        line.addWidget(button)
    line.addStretch(1)
    group.idClicked.connect(lambda k: slot.change("change what it acts on", each=bool(k)))
    slot.updates.append(lambda: group.button(int(getattr(slot.ingredient, "each", False))).setChecked(True))
    return line
