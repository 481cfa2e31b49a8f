"""The recipe of what is selected: cards under Form, Surface, Light and Finish."""

from __future__ import annotations

from functools import partial
from typing import Any

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from volumen.app.panels.add_menu import add_menu
from volumen.app.panels.card import Card
from volumen.app.panels.form_card import FormParameters
from volumen.app.panels.recipe_editor import RecipeEditor
from volumen.app.panels.recipe_words import as_good_as, form_layout, form_name, layout_of, title_of
from volumen.app.panels.slot import IngredientSlot
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.rows import heading_label
from volumen.app.widgets.scrolled import show_body
from volumen.app.widgets.segment import ListBox
from volumen.app.widgets.slider import SliderRow
from volumen.edit import objects
from volumen.edit.arrange import keep_lengths
from volumen.geometry.affine import mean_scale, scaling, translation
from volumen.model.catalogue.ingredients import row_of
from volumen.model.catalogue.rows import HEADINGS
from volumen.model.ingredients import BLEND_MODES, Ingredient
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import Node, Shape
from volumen.model.tree import world_of

replace = msgspec.structs.replace


class RecipePanel(QScrollArea):
    """Shows the recipe of what is selected as cards."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.editor = RecipeEditor(session)
        self.cards: list[Card] = []
        self.parameters: FormParameters | None = None
        self._signature: object = None
        self._place: dict[str, NumberField] = {}
        self._fields: dict[str, Any] = {}
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setObjectName("side")
        session.on((News.DOCUMENT, News.SELECTION, News.ACTIVE), self.refresh)
        self.refresh()

    # -- showing

    def refresh(self) -> None:
        """Update values in place; build the cards anew only when other ones are needed."""
        nodes = self.session.nodes
        active = self.session.active
        if active is not None and nodes and active < len(nodes[0].recipe):
            self.editor.open_kinds.add(self.editor.kind_and_rank(active))
        form = form_layout(nodes[0]) if nodes else None
        kinds = (
            tuple((type(i), self.editor.is_open(k), layout_of(i)) for k, i in enumerate(nodes[0].recipe))
            if nodes
            else ()
        )
        signature = (self.session.selection, form, kinds, bool(nodes))
        if signature != self._signature:
            self._signature = signature
            self._build(nodes)
        self._show(nodes)

    def _show(self, nodes: list[Node]) -> None:
        if not nodes:
            return
        for card in self.cards:
            card.show_values(nodes[0].recipe[card.index])
        box = objects.selection_box(self.session.document, self.session.selection)
        if box:
            for name, value in zip("xywh", (box[0], box[1], box[2] - box[0], box[3] - box[1]), strict=True):
                self._place[name].show_value(value)
        lifts = [lift_on_sheet(n, world_of(self.session.document, n.id)) for n in nodes]
        self._fields["lift"].show_value(lifts[0], not all(as_good_as(v, lifts[0]) for v in lifts))
        self._fields["opacity"].show_value(nodes[0].opacity, len({n.opacity for n in nodes}) > 1)
        self._fields["blend"].setCurrentText(nodes[0].blend)
        if self.parameters is not None and isinstance(nodes[0], Shape):
            self.parameters.show_form(nodes[0].form)

    def _build(self, nodes: list[Node]) -> None:
        at = self.verticalScrollBar().value()
        body = QWidget()
        body.setObjectName("side")
        column = QVBoxLayout(body)
        column.setContentsMargins(11, 10, 11, 12)
        column.setSpacing(6)
        self.cards, self._place, self._fields = [], {}, {}
        head = QHBoxLayout()
        head.addWidget(heading_label("RECIPE"))
        title = QLabel(title_of(nodes))
        title.setObjectName("strong")
        head.addWidget(title, 1, Qt.AlignmentFlag.AlignRight)
        column.addLayout(head)
        if nodes:
            self._build_cards(column, nodes)
        else:
            empty = QLabel("Select an object to see what it is made of,\nor draw one with a tool on the left.")
            empty.setObjectName("quiet")
            empty.setWordWrap(True)
            column.addSpacing(8)
            column.addWidget(empty)
        column.addStretch(1)
        show_body(self, body)
        self.verticalScrollBar().setValue(at)

    def _build_cards(self, column: QVBoxLayout, nodes: list[Node]) -> None:
        recipe = nodes[0].recipe
        if any(row_of(i).heading == "Repeat" for i in recipe):
            column.addSpacing(4)
            column.addWidget(heading_label("REPEAT"))
            for index, ingredient in enumerate(recipe):
                if row_of(ingredient).heading == "Repeat":
                    self._add_card(column, index, ingredient)
        column.addSpacing(4)
        column.addWidget(heading_label("FORM"))
        column.addWidget(self._form_card(nodes[0]))
        for index, ingredient in enumerate(recipe):
            if row_of(ingredient).heading == "Form":
                self._add_card(column, index, ingredient)
        for heading in HEADINGS[2:]:
            if heading != "Finish" and not any(row_of(i).heading == heading for i in recipe):
                continue
            column.addSpacing(4)
            row = QHBoxLayout()
            row.addWidget(heading_label(heading.upper()))
            column.addLayout(row)
            for index, ingredient in enumerate(recipe):
                if row_of(ingredient).heading == heading:
                    self._add_card(column, index, ingredient)
            if heading == "Finish":
                column.addWidget(self._blending_card())
        self.add_button = QPushButton("+  Add an ingredient")
        self.add_button.setObjectName("dashed")
        self.add_button.clicked.connect(self.add_menu)
        column.addSpacing(2)
        column.addWidget(self.add_button)

    def _add_card(self, column: QVBoxLayout, index: int, ingredient: Ingredient) -> None:
        card = Card(IngredientSlot(self.editor, index, ingredient), self.editor.is_open(index))
        card.dropped.connect(partial(self.drop_card, card))
        self.cards.append(card)
        column.addWidget(card)

    def _form_card(self, node: Node) -> QFrame:
        card, grid = QFrame(), QGridLayout()
        card.setObjectName("card")
        column = QVBoxLayout(card)
        column.setContentsMargins(9, 6, 9, 6)
        several = len(self.session.selection)
        kind = QLabel(form_name(node) if several == 1 else f"{several} objects together")
        kind.setObjectName("strong")
        column.addWidget(kind)
        grid.setHorizontalSpacing(8)
        for i, name in enumerate("xywh"):
            label = QLabel({"w": "wide", "h": "high"}.get(name, name))
            label.setObjectName("quiet")
            field = NumberField(f"{name} of the selection", step=1, low=1e-3 if name in "wh" else -1e9).set_length()
            field.preview.connect(lambda v, n=name: self._set_place(n, v, False))
            field.done.connect(lambda v, n=name: self._set_place(n, v, True))
            self._place[name] = field
            grid.addWidget(label, i // 2, (i % 2) * 2)
            grid.addWidget(field, i // 2, (i % 2) * 2 + 1)
        column.addLayout(grid)
        self.parameters = FormParameters(self.session, node.form) if isinstance(node, Shape) else None
        if self.parameters is not None:
            column.addWidget(self.parameters)
        column.addWidget(self._object_row("lift", "lift", 0, 60, "", 1, self._set_lift))
        return card

    def _blending_card(self) -> QFrame:
        card = QFrame()
        card.setObjectName("card")
        column = QVBoxLayout(card)
        column.setContentsMargins(9, 6, 9, 6)
        title = QLabel("Whole object")
        title.setObjectName("strong")
        column.addWidget(title)
        column.addWidget(
            self._object_row("opacity", "opacity", 0, 1, " %", 100, lambda v, final: self._set("opacity", v, final))
        )
        row = QHBoxLayout()
        label = QLabel("blend mode")
        label.setObjectName("quiet")
        label.setFixedWidth(76)
        blend = ListBox()
        blend.setAccessibleName("blend mode of the object")
        blend.addItems(BLEND_MODES)
        blend.activated.connect(lambda n: self._set("blend", BLEND_MODES[n], True))
        self._fields["blend"] = blend
        row.addWidget(label)
        row.addWidget(blend, 1)
        column.addLayout(row)
        return card

    def _object_row(
        self, name: str, label: str, low: float, high: float, unit: str, factor: float, call: Any
    ) -> SliderRow:
        hard = (0.0, 1.0) if name == "opacity" else (0.0 if name == "radius" else -1e6, 1e6)
        row = SliderRow(label, low, high, unit, factor, *hard)
        row.number.set_length(name != "opacity")
        row.preview.connect(lambda v: call(v, False))
        row.done.connect(lambda v: call(v, True))
        self._fields[name] = row
        return row

    # -- editing the object

    def _set(self, field: str, value: Any, final: bool) -> None:
        document = objects.set_fields(self.session.document, self.session.selection, **{field: value})
        self.editor.step(document, final, f"change {field}")

    def _set_place(self, name: str, value: float, final: bool) -> None:
        """Move or scale the selection so that x, y, width or height of its box becomes ``value``."""
        box = objects.selection_box(self.session.document, self.session.selection)
        if box is None:
            return
        w, h = max(box[2] - box[0], 1e-9), max(box[3] - box[1], 1e-9)
        m = {
            "x": lambda: translation(value - box[0], 0), "y": lambda: translation(0, value - box[1]),
            "w": lambda: scaling(value / w, 1, (box[0], box[1])), "h": lambda: scaling(1, value / h, (box[0], box[1])),
        }[name]()  # fmt: skip
        document = objects.transform(self.session.document, self.session.selection, m)
        if self.session.keep_lengths:
            document = keep_lengths(document, self.session.selection, mean_scale(m))
        self.editor.step(document, final, "move" if name in "xy" else "scale")

    def _set_lift(self, value: float, final: bool) -> None:
        self.editor.step(objects.set_lift(self.session.document, self.session.selection, value), final, "change lift")

    def drop_card(self, card: Card, y: float) -> None:
        """A card was dropped at a height on the screen: put it before the first card whose middle is below."""
        others = sorted(self.cards, key=lambda c: c.mapToGlobal(c.rect().center()).y())
        before = [c for c in others if c is not card and c.mapToGlobal(c.rect().center()).y() < y]
        after = [c for c in others if c is not card and c not in before]
        to = after[0].index if after else self.editor.count
        self.editor.reorder(card.index, to - 1 if card.index < to else to)

    def add_menu(self) -> None:
        menu = add_menu(self, self.editor)
        menu.exec(self.add_button.mapToGlobal(self.add_button.rect().bottomLeft()))
