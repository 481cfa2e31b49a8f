"""Rows of the cards of repeats: the centre, as it is on the sheet, and how far what is repeated stands from it."""

from __future__ import annotations

import math

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from volumen.app.panels.slot import IngredientSlot
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.rows import labelled
from volumen.app.widgets.slider import SliderRow
from volumen.edit.placing import own_box
from volumen.geometry.affine import IDENTITY, Affine, Point, apply, invert, mean_scale
from volumen.model.limits import MAX_LENGTH
from volumen.model.nodes import Group
from volumen.model.repeats import Ring, ring_steps, ring_with_angle
from volumen.model.tree import world_of
from volumen.outline.making import shown_before
from volumen.outline.repeats import box_of


def _place(slot: IngredientSlot) -> Affine:
    node = slot.session.first
    return world_of(slot.session.document, node.id) if node is not None else IDENTITY


def _point(slot: IngredientSlot, field: str) -> Point:
    """A point of the ingredient, as it is on the sheet."""
    return apply(_place(slot), getattr(slot.ingredient, field, None) or (0.0, 0.0))


def centre_row(slot: IngredientSlot) -> QHBoxLayout:
    """Two fields for the centre."""
    return _point_row(slot, "centre", "centre")


def _point_row(slot: IngredientSlot, field: str, label: str) -> QHBoxLayout:
    line = labelled(label)
    fields = []
    for k, axis in enumerate("xy"):
        number = NumberField(f"{label} {axis}", step=1, low=-MAX_LENGTH, high=MAX_LENGTH).set_length()

        def moved(value: float, k: int = k) -> Point:
            x, y = _point(slot, field)
            at = (value, y) if k == 0 else (x, value)
            return apply(invert(_place(slot)) or IDENTITY, at)

        number.preview.connect(lambda v, to=moved: slot.preview(**{field: to(v)}))
        number.done.connect(lambda v, to=moved: slot.change(f"change {label}", **{field: to(v)}))
        number.refused.connect(slot.session.say)
        fields.append(number)
        line.addWidget(number, 1)

    def update() -> None:
        for number, value in zip(fields, _point(slot, field), strict=True):
            number.show_value(value)

    slot.updates.append(update)
    return line


def towards_row(slot: IngredientSlot) -> QVBoxLayout:
    """Whether depth goes towards a point, and two fields for it."""
    column = QVBoxLayout()
    check = QCheckBox("towards a point")
    check.clicked.connect(lambda on: slot.change("change depth", point=_above(slot) if on else None))
    column.addWidget(check)
    holder = QWidget()
    holder.setLayout(_point_row(slot, "point", "point"))
    column.addWidget(holder)

    def update() -> None:
        point = getattr(slot.ingredient, "point", None)
        check.setChecked(point is not None)
        holder.setVisible(point is not None)

    slot.updates.append(update)
    return column


def _above(slot: IngredientSlot) -> Point:
    """A place over the middle of the first object, in its own coordinates, as far as it is large."""
    node = slot.session.first
    box = own_box(node) if node is not None else None
    if box is None:
        return (0.0, 0.0)
    return (box[0] + box[2]) / 2, box[1] - max(box[2] - box[0], box[3] - box[1])


def step_angle_row(slot: IngredientSlot) -> SliderRow:
    """The angle from copy to copy: it always goes with the count, so a ring closes."""
    row = SliderRow("angle", 1, 180, "°", 1.0, 360 / 2000, 360.0)

    def count(angle: float) -> int:
        return ring_with_angle(slot.ingredient, angle).count if isinstance(slot.ingredient, Ring) else 1

    row.preview.connect(lambda v: slot.preview(count=count(v)))
    row.done.connect(lambda v: slot.change("change angle", count=count(v)))
    row.number.refused.connect(slot.session.say)

    def update() -> None:
        if isinstance(slot.ingredient, Ring):
            row.show_value(abs(ring_steps(slot.ingredient)[1]), slot.editor.differs(slot.index, "count"))

    slot.updates.append(update)
    return row


def _from_centre(slot: IngredientSlot) -> tuple[Point, Point, float] | None:
    """The middle of what is repeated and the way from it to the centre, in the group's coordinates; its units' scale."""
    node = slot.session.first
    box = box_of(shown_before(node, slot.index)) if isinstance(node, Group) else None
    if box is None:
        return None
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    x, y = getattr(slot.ingredient, "centre", middle)
    return middle, (x - middle[0], y - middle[1]), mean_scale(_place(slot)) or 1.0


def radius_row(slot: IngredientSlot) -> SliderRow:
    """How far what is repeated stands from the centre: the centre moves, what was drawn stays."""
    row = SliderRow("radius", 0, 300, "", 1.0, 0.0, MAX_LENGTH)
    row.number.set_length()

    def centre(radius: float) -> Point | None:
        found = _from_centre(slot)
        if found is None:
            return None
        (mx, my), (dx, dy), scale = found
        away = math.hypot(dx, dy)
        ux, uy = (dx / away, dy / away) if away > 1e-9 else (0.0, 1.0)
        return mx + ux * radius / scale, my + uy * radius / scale

    def preview(radius: float) -> None:
        if (at := centre(radius)) is not None:
            slot.preview(centre=at)

    def done(radius: float) -> None:
        if (at := centre(radius)) is not None:
            slot.change("change radius", centre=at)

    row.preview.connect(preview)
    row.done.connect(done)
    row.number.refused.connect(slot.session.say)

    def update() -> None:
        found = _from_centre(slot)
        if found is not None:
            row.show_value(math.hypot(*found[1]) * found[2], False)

    slot.updates.append(update)
    return row
