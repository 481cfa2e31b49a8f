"""One ingredient as a card: its line closed, all its controls open."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QLabel, QMenu, QToolButton, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.panels.card_body_rows import lit_body, truth_row
from volumen.app.panels.card_line_rows import dashes_row, ease_row, omitted_row, profile_row, scope_row
from volumen.app.panels.card_repeat_rows import centre_row, radius_row, step_angle_row, towards_row
from volumen.app.panels.card_shape_rows import fit_row, other_row, receivers_row
from volumen.app.panels.material_editor import MaterialEditor
from volumen.app.panels.slot import IngredientSlot
from volumen.app.widgets.colours import ColourPanel, Swatch
from volumen.app.widgets.glow_colours import GlowColours
from volumen.app.widgets.paint_editor import PaintEditor
from volumen.app.widgets.rows import labelled
from volumen.app.widgets.segment import ListBox
from volumen.app.widgets.slider import SliderRow
from volumen.app.widgets.stopbar import StopBar
from volumen.compose.backdrop import behind
from volumen.compose.bodies_on import body_of
from volumen.edit.inks import with_tint
from volumen.geometry.affine import IDENTITY
from volumen.model.catalogue.ingredients import row_of
from volumen.model.catalogue.rows import Auto, Choice, Control, Easing, Number, Switch
from volumen.model.fitting import is_whole
from volumen.model.ingredients import Body, Fill, Ingredient, InnerGlow, Line, OuterGlow
from volumen.model.lengths import is_length
from volumen.model.limits import limits
from volumen.model.nodes import Group, Shape
from volumen.model.tree import world_of
from volumen.outline.outlines import outline
from volumen.shading.bodies import MESHES
from volumen.shading.paint import GRADIENTS


class Header(QWidget):
    """The card's top line. Click opens; dragging the grip changes the order."""

    def __init__(self, card: Card) -> None:
        super().__init__()
        self.card = card
        self._drag: float | None = None
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._drag = event.globalPosition().y()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            return
        moved = event.globalPosition().y() - self._drag
        self._drag = None
        if abs(moved) < 8:
            self.card.slot.editor.toggle(self.card.index)
        else:
            self.card.dropped.emit(event.globalPosition().y())


class Card(QFrame):
    """One ingredient: its line, and when it is open the controls that its row in the catalogue names.

    ``dropped`` tells at which height on the screen it was let go."""

    dropped = Signal(float)

    def __init__(self, slot: IngredientSlot, is_open: bool) -> None:
        super().__init__()
        self.slot, self.index = slot, slot.index
        ingredient = slot.ingredient
        self.spec = row_of(ingredient)
        self.is_open = is_open
        self.setObjectName("card")
        self.setProperty("open", is_open)
        self.setAccessibleName(f"{self.spec.title} card")
        self.updates = slot.updates
        column = QVBoxLayout(self)
        column.setContentsMargins(9, 5, 6, 5)
        column.setSpacing(4)
        column.addWidget(self._header())
        if is_open:
            body = QVBoxLayout()
            body.setContentsMargins(1, 2, 3, 4)
            body.setSpacing(4)
            if isinstance(ingredient, Body) and isinstance(slot.session.first, Shape):
                body.addLayout(truth_row(slot))
            for control in self.spec.controls:
                self._control(body, control)
            if hasattr(ingredient, "each") and any(isinstance(n, Group) for n in slot.session.nodes):
                body.addLayout(scope_row(slot, self))
            column.addLayout(body)
        elif (isinstance(ingredient, Fill | Line) and isinstance(ingredient.paint, GRADIENTS)) or (
            isinstance(ingredient, Body) and isinstance(slot.session.first, Shape)
        ):
            bar = StopBar(editable=False)
            column.addWidget(bar)
            self.updates.append(lambda: self._show_ramp(bar))
        self.show_values(ingredient)

    @property
    def ingredient(self) -> Ingredient:
        return self.slot.ingredient

    # -- the closed line

    def _header(self) -> QWidget:
        header = Header(self)
        row = QHBoxLayout(header)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(7)
        mark = QLabel()
        mark.setPixmap(theme.icon_pixmap(self.spec.icon))
        row.addWidget(mark)
        face = self.spec.face
        if face is not None:
            swatch = Swatch("colour", 16)
            swatch.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            self.updates.append(lambda: swatch.show_colour(face(self.slot.ingredient)))
            row.addWidget(swatch)
        title = QLabel(self.spec.title)
        title.setObjectName("strong")
        row.addWidget(title)
        self.line = QLabel()
        self.line.setObjectName("quiet")
        self.line.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.line, 1)
        self.eye = self._button("eye", "switch on or off; hold Z on the sheet to see it without", self._switch)
        row.addWidget(self.eye)
        self.more = self._button("ellipsis", "more", self._menu)
        row.addWidget(self.more)
        header.setToolTip("Click to open, drag to reorder")
        return header

    def _button(self, icon: str, tip: str, call: Any) -> QToolButton:
        button = QToolButton()
        button.setIcon(theme.icon(icon, theme.SOFT_INK))
        button.setToolTip(tip)
        button.setAccessibleName(f"{self.spec.title}: {tip}")
        button.clicked.connect(call)
        return button

    def _switch(self) -> None:
        self.slot.change("switch ingredient", on=not self.slot.ingredient.on)

    def _menu(self) -> None:
        menu = QMenu(self)
        p, i = self.slot.editor, self.index
        menu.addAction("Duplicate", lambda: p.duplicate(i))
        menu.addAction("Earlier", lambda: p.reorder(i, i - 1)).setEnabled(i > 0)
        menu.addAction("Later", lambda: p.reorder(i, i + 1)).setEnabled(i + 1 < p.count)
        menu.addSeparator()
        menu.addAction("Copy this ingredient", lambda: p.copy(i))
        copy = menu.addAction("Copy to the other selected objects", lambda: p.copy_to_others(i))
        copy.setEnabled(len(p.session.selection) > 1)
        menu.addSeparator()
        menu.addAction("Remove", lambda: p.remove(i))
        menu.exec(self.more.mapToGlobal(self.more.rect().bottomLeft()))

    def _show_ramp(self, bar: StopBar) -> None:
        i = self.slot.ingredient
        if isinstance(i, Fill | Line) and isinstance(i.paint, GRADIENTS):
            bar.show_gradient(i.paint, -1)
        elif isinstance(i, Body) and i.kind not in MESHES and (lit := lit_body(self.slot)) is not None:
            coats = body_of(*lit)
            if coats and isinstance(coats[0].paint, GRADIENTS):
                bar.show_gradient(coats[0].paint, -1)

    # -- its controls

    def _control(self, column: QVBoxLayout, row: Control) -> None:
        if isinstance(row, Number):
            column.addWidget(self._number(row))
        elif isinstance(row, Choice):
            column.addLayout(self._choice(row))
        elif isinstance(row, Auto):
            self._auto(column, row)
        elif isinstance(row, Switch):
            column.addWidget(self._tick(row))
        elif isinstance(row, Easing):
            column.addLayout(ease_row(self.slot, row))
        elif row.kind == "dashes":
            column.addLayout(dashes_row(self.slot))
        elif row.kind == "omitted":
            column.addWidget(omitted_row(self.slot))
        elif row.kind == "profile":
            column.addLayout(profile_row(self.slot))
        elif row.kind == "paint":
            self._paint(column)
        elif row.kind == "materials":
            column.addWidget(MaterialEditor(self.slot))
        elif row.kind in ("colour", "light", "shade"):
            self._colour(column, row.kind)
        elif row.kind == "fit":
            column.addLayout(fit_row(self.slot))
        elif row.kind == "glow":
            self._glow(column)
        elif row.kind == "centre":
            column.addLayout(centre_row(self.slot))
        elif row.kind == "step angle":
            column.addWidget(step_angle_row(self.slot))
        elif row.kind == "radius":
            column.addWidget(radius_row(self.slot))
        elif row.kind == "towards":
            column.addLayout(towards_row(self.slot))
        elif row.kind == "other":
            column.addLayout(other_row(self.slot))
        else:
            column.addLayout(receivers_row(self.slot))

    def _number(self, row: Number) -> SliderRow:
        kind = type(self.slot.ingredient)
        whole = is_whole(kind, row.field)
        least, most = limits(kind.__name__, row.field, whole)
        hard = max(row.hard_low, least), min(row.hard_high, most)
        widget = SliderRow(row.label, row.low, row.high, row.unit, row.factor, *hard, digits=0 if whole else 1)
        widget.preview.connect(lambda v: self.slot.preview(**{row.field: v}))
        widget.done.connect(lambda v: self.slot.change(f"change {row.label}", **{row.field: v}))
        widget.number.refused.connect(self.slot.session.say)

        def update() -> None:
            value = self.slot.editor.value_of(self.index, row.field)
            if value is not None:
                widget.number.set_length(row.factor == 1 and is_length(self.slot.ingredient, row.field))
                widget.show_value(value, self.slot.editor.differs(self.index, row.field))

        self.updates.append(update)
        return widget

    def _choice(self, row: Choice) -> QHBoxLayout:
        line = labelled(row.label)
        box = ListBox()
        box.setAccessibleName(row.label)
        box.addItems(row.options)
        box.activated.connect(lambda n: self.slot.change(f"change {row.label}", **{row.field: row.options[n]}))
        line.addWidget(box, 1)
        self.updates.append(lambda: box.setCurrentText(str(getattr(self.slot.ingredient, row.field))))
        return line

    def _tick(self, row: Switch) -> QCheckBox:
        check = QCheckBox(row.label)
        check.clicked.connect(lambda on: self.slot.change(f"change {row.label}", **{row.field: on}))
        self.updates.append(lambda: check.setChecked(bool(getattr(self.slot.ingredient, row.field))))
        return check

    def _auto(self, column: QVBoxLayout, row: Auto) -> None:
        check = QCheckBox(f"{row.label}: {row.auto}")
        check.clicked.connect(
            lambda on: self.slot.change(f"change {row.label}", **{row.field: None if on else row.own})
        )
        column.addWidget(check)
        if row.number is not None:
            own: QWidget = self._number(row.number)
            column.addWidget(own)
        else:
            own = self._colour(column, row.field)

        def update() -> None:
            automatic = getattr(self.slot.ingredient, row.field) is None
            check.setChecked(automatic)
            own.setVisible(not automatic)

        self.updates.append(update)

    def _colour(self, column: QVBoxLayout, field: str) -> ColourPanel:
        panel = ColourPanel()
        panel.preview.connect(lambda c: self.slot.preview(**{field: c}))
        panel.done.connect(lambda c: self.slot.change("change colour", **{field: c}))
        column.addWidget(panel)

        def update() -> None:
            value = getattr(self.slot.ingredient, field)
            if value is not None:
                panel.show_colour(value)

        self.updates.append(update)
        return panel

    def _glow(self, column: QVBoxLayout) -> None:
        colours = GlowColours()
        colours.preview.connect(lambda fields: self.slot.preview(**fields))
        colours.done.connect(lambda fields: self.slot.change("change colour", **fields))
        column.addWidget(colours)

        def update() -> None:
            assert isinstance(self.slot.ingredient, OuterGlow | InnerGlow)
            colours.show_glow(self.slot.ingredient)

        self.updates.append(update)

    def _paint(self, column: QVBoxLayout) -> None:
        editor = PaintEditor()
        editor.preview.connect(lambda p: self.slot.preview(paint=p))
        editor.done.connect(lambda p: self.slot.change("change paint", paint=p))
        editor.stop_chosen.connect(lambda i: self.slot.session.set_active(self.index, i))
        editor.with_tint = lambda p, tint, stop: with_tint(self.slot.session.document, p, tint, stop)
        column.addWidget(editor)

        def update() -> None:
            node = self.slot.session.first
            box = outline(node).bounds() if isinstance(node, Shape) else None
            assert isinstance(self.slot.ingredient, Fill | Line)
            session = self.slot.session
            editor.colours.behind = partial(behind, session.document, node) if node is not None else None
            place = world_of(session.document, node.id) if node is not None else IDENTITY
            editor.show_paint(self.slot.ingredient.paint, session.active_stop, box, session.mesh_points, place)

        self.updates.append(update)

    def show_values(self, ingredient: Ingredient) -> None:
        """Take over new values without rebuilding any widget."""
        self.line.setText(self.spec.summary(self.slot.editor.as_on_sheet(ingredient)) if ingredient.on else "off")
        self.eye.setIcon(theme.icon("eye" if ingredient.on else "eye-off", theme.SOFT_INK))
        if self.property("off") != (not ingredient.on):
            self.setProperty("off", not ingredient.on)
            self.style().unpolish(self)
            self.style().polish(self)
        self.slot.show(ingredient)
