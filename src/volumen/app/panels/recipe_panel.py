"""The recipe of what is selected: cards under Form, Surface, Light and Finish."""

from __future__ import annotations

from typing import Any

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from volumen.app.panels.add_menu import add_menu
from volumen.app.panels.card import Card
from volumen.app.panels.form_card import FormParameters
from volumen.app.panels.recipe_words import as_good_as, form_layout, form_name, heading_label, layout_of, title_of
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.slider import SliderRow
from volumen.edit import objects, recipes
from volumen.edit.adding import add_to_see, fit_bodies
from volumen.edit.arrange import keep_lengths
from volumen.edit.looks import add_pair
from volumen.edit.placing import laid_ingredient, own_box, sheet_recipe
from volumen.geometry.affine import mean_scale, scaling, translation
from volumen.model.catalogue.ingredients import row_of
from volumen.model.catalogue.rows import HEADINGS
from volumen.model.ingredients import BLEND_MODES, Fill, Ingredient, Line, Recipe
from volumen.model.lengths import is_length, lift_on_sheet
from volumen.model.nodes import Node, Shape
from volumen.model.tree import find, walk, world_of
from volumen.outline.outlines import outline

replace = msgspec.structs.replace


class RecipePanel(QScrollArea):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.open_kinds: set[tuple[type, int]] = set()
        self.cards: list[Card] = []
        self.parameters: FormParameters | None = None
        self.clipboard: tuple[Ingredient, ...] = ()
        self._signature: object = None
        self._place: dict[str, NumberField] = {}
        self._fields: dict[str, Any] = {}
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setObjectName("side")
        session.on((News.DOCUMENT, News.SELECTION, News.ACTIVE), self.refresh)
        self.refresh()

    # -- showing

    def refresh(self) -> None:
        """Update values in place; build the cards anew only when other ones are needed."""
        nodes = self.session.nodes
        active = self.session.active
        if active is not None and nodes and active < len(nodes[0].recipe):
            self.open_kinds.add(self._kind_and_rank(active))
        form = form_layout(nodes[0]) if nodes else None
        kinds = tuple((type(i), self._is_open(k), layout_of(i)) for k, i in enumerate(nodes[0].recipe)) if nodes else ()
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
        self.setWidget(body)
        self.verticalScrollBar().setValue(at)

    def _build_cards(self, column: QVBoxLayout, nodes: list[Node]) -> None:
        column.addSpacing(4)
        column.addWidget(heading_label("FORM"))
        column.addWidget(self._form_card(nodes[0]))
        recipe = nodes[0].recipe
        for index, ingredient in enumerate(recipe):
            if row_of(ingredient).heading == "Form":
                self._add_card(column, index, ingredient)
        for heading in HEADINGS[1:]:
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
        card = Card(self, index, ingredient, self._is_open(index))
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
            field = NumberField(f"{name} of the selection", step=1, low=1e-3 if name in "wh" else -1e9)
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
        blend = QComboBox()
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
        row.preview.connect(lambda v: call(v, False))
        row.done.connect(lambda v: call(v, True))
        self._fields[name] = row
        return row

    # -- editing the object

    def _step(self, document: Any, final: bool, label: str) -> None:
        self.session.preview(document)
        if final:
            self.session.commit(label)

    def _set(self, field: str, value: Any, final: bool) -> None:
        document = objects.set_fields(self.session.document, self.session.selection, **{field: value})
        self._step(document, final, f"change {field}")

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
        self._step(document, final, "move" if name in "xy" else "scale")

    def _set_lift(self, value: float, final: bool) -> None:
        self._step(objects.set_lift(self.session.document, self.session.selection, value), final, "change lift")

    # -- editing ingredients

    @property
    def count(self) -> int:
        node = self.session.first
        return len(node.recipe) if node else 0

    def preview(self, index: int, **fields: Any) -> None:
        self.session.preview(self._edited(index, fields))

    def change(self, index: int, label: str, **fields: Any) -> None:
        self._step(self._edited(index, fields), True, label)

    def _edited(self, index: int, fields: dict[str, Any]) -> Any:
        s, node = self.session, self.session.first
        assert node is not None
        return recipes.edit_alike(s.document, s.selection, index, node.recipe[index], on_sheet=True, **fields)

    def as_on_sheet(self, i: Ingredient) -> Ingredient:
        """An ingredient of the first object with its lengths as they are on the sheet."""
        node = self.session.first
        return sheet_recipe((i,), world_of(self.session.document, node.id))[0] if node is not None else i

    def value_of(self, index: int, field: str) -> Any:
        """A value of the first object's ingredient; a length as it is on the sheet."""
        node = self.session.first
        assert node is not None
        return self._on_sheet(node, node.recipe[index], field)

    def _on_sheet(self, node: Node, i: Ingredient, field: str) -> Any:
        value = getattr(i, field)
        if value is None or not is_length(i, field):
            return value
        return value * (mean_scale(world_of(self.session.document, node.id)) or 1.0)

    def differs(self, index: int, field: str) -> bool:
        """Whether the selected objects have different values there."""
        nodes = self.session.nodes
        if len(nodes) < 2:
            return False
        kind, rank = self._kind_and_rank(index)
        found = ((n, recipes.counterpart(n.recipe, kind, rank)) for n in nodes)
        values = [self._on_sheet(n, n.recipe[at], field) for n, at in found if at is not None]
        return any(v != values[0] and not as_good_as(v, values[0]) for v in values[1:])

    def _kind_and_rank(self, index: int) -> tuple[type, int]:
        node = self.session.first
        assert node is not None
        kind = type(node.recipe[index])
        return kind, sum(type(i) is kind for i in node.recipe[:index])

    def _is_open(self, index: int) -> bool:
        return self._kind_and_rank(index) in self.open_kinds

    def toggle(self, index: int) -> None:
        """Open or close a card. One card of a kind stays open from object to object."""
        key = self._kind_and_rank(index)
        if key in self.open_kinds:
            self.open_kinds.discard(key)
            self.session.active = None
        else:
            self.open_kinds.clear()
            self.open_kinds.add(key)
            self.session.active, self.session.active_stop = index, 0
        self.session.tell(News.ACTIVE)

    def _each_recipe(self, label: str, change: Any) -> None:
        self.session.apply(label, recipes.set_recipe(self.session.document, self.session.selection, change))

    def remove(self, index: int) -> None:
        kind, rank = self._kind_and_rank(index)
        self.open_kinds.clear()

        def without(recipe: tuple[Ingredient, ...]) -> tuple[Ingredient, ...]:
            at = recipes.counterpart(recipe, kind, rank)
            return recipe if at is None else recipes.remove(recipe, at)

        self._each_recipe("remove ingredient", without)

    def duplicate(self, index: int) -> None:
        kind, rank = self._kind_and_rank(index)

        def doubled(recipe: tuple[Ingredient, ...]) -> tuple[Ingredient, ...]:
            at = recipes.counterpart(recipe, kind, rank)
            return recipe if at is None else recipes.duplicate(recipe, at)

        self._each_recipe("duplicate ingredient", doubled)

    def reorder(self, index: int, to: int) -> None:
        node = self.session.first
        if node is not None and 0 <= to < len(node.recipe):
            document = recipes.set_recipe(self.session.document, [node.id], lambda r: recipes.move(r, index, to))
            self.session.apply("reorder ingredients", document)

    def open_first(self) -> None:
        """Open the first card."""
        if self.count and not self._is_open(0):
            self.toggle(0)

    def drop_card(self, card: Card, y: float) -> None:
        """A card was dropped at a height on the screen: put it before the first card whose middle is below."""
        others = sorted(self.cards, key=lambda c: c.mapToGlobal(c.rect().center()).y())
        before = [c for c in others if c is not card and c.mapToGlobal(c.rect().center()).y() < y]
        after = [c for c in others if c is not card and c not in before]
        to = after[0].index if after else self.count
        self.reorder(card.index, to - 1 if card.index < to else to)

    def copy(self, index: int) -> None:
        node = self.session.first
        if node is not None:
            self.clipboard = sheet_recipe((node.recipe[index],), world_of(self.session.document, node.id))
            self.session.say("ingredient copied; paste it from the add menu of another object")

    def copy_to_others(self, index: int) -> None:
        node = self.session.first
        if node is not None:
            others = [i for i in self.session.selection if i != node.id]
            document, box = self.session.document, own_box(node)
            (given,) = sheet_recipe((node.recipe[index],), world_of(document, node.id))
            for i in others:
                target = find(document, i)
                if target is not None:
                    document = recipes.add(document, [i], laid_ingredient(given, box, own_box(target)))
            self.session.apply("copy ingredient", document)

    def fit_bodies(self, index: int) -> None:
        rank = self._kind_and_rank(index)[1]
        self.session.apply("fit to shape", fit_bodies(self.session.document, self.session.selection, rank))

    def add(self, ingredient: Ingredient, as_it_is: bool = False) -> None:
        """Add to all selected objects and open the new card; colours give way to such as show, unless it must stay
        ``as_it_is``."""
        nodes = self.session.nodes
        if not nodes:
            self.session.say("select an object first")
            return
        if not any(recipes.fits(n, ingredient) for n in nodes):
            self.session.say("a group has no outline of its own: add this to the shapes in it")
            return
        if isinstance(ingredient, Line | Fill) and isinstance(nodes[0], Shape) and not outline(nodes[0]):
            self.session.say("this shape has no points to paint")
        self.open_kinds = {(type(ingredient), sum(type(i) is type(ingredient) for i in nodes[0].recipe))}
        give = recipes.add if as_it_is else add_to_see
        self.session.apply("add ingredient", give(self.session.document, self.session.selection, ingredient))

    def add_pair(self, pair: Recipe) -> None:
        """Add ingredients that go together to all selected objects."""
        if not self.session.nodes:
            self.session.say("select an object first")
            return
        self.session.apply("add a pair", add_pair(self.session.document, self.session.selection, pair))

    def add_menu(self) -> None:
        menu = add_menu(self)
        menu.exec(self.add_button.mapToGlobal(self.add_button.rect().bottomLeft()))

    def possible_receivers(self) -> list[Node]:
        chosen = set(self.session.selection)
        return [n for n in walk(self.session.document.root) if isinstance(n, Shape) and n.id not in chosen]
