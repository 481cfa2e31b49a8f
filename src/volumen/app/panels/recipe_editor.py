"""Editing the recipe of what is selected: what cards, menus and commands do to its ingredients."""

from __future__ import annotations

from typing import Any

from volumen.app.panels.recipe_words import as_good_as
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.edit import recipes
from volumen.edit.adding import add_to_see, fit_bodies
from volumen.edit.combined_looks import seen_of
from volumen.edit.looks import add_pair
from volumen.edit.placing import laid_ingredient, own_box, sheet_recipe
from volumen.edit.repeats import repeat
from volumen.geometry.affine import mean_scale
from volumen.model.ingredients import Fill, Ingredient, Line, Recipe
from volumen.model.lengths import is_length
from volumen.model.nodes import Group, Node, Shape
from volumen.model.repeats import REPEATS, Repeat
from volumen.model.tree import find, walk, world_of
from volumen.outline.copies import beyond_sight
from volumen.outline.outlines import outline
from volumen.outline.repeats import standing


class RecipeEditor:
    """Edits ingredients by their number in the recipe of the first selected object; their counterparts in the others
    follow. ``open_kinds`` are the cards that are open, by kind and rank; ``clipboard`` holds copied ingredients."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.open_kinds: set[tuple[type, int]] = set()
        self.clipboard: tuple[Ingredient, ...] = ()

    def step(self, document: Any, final: bool, label: str) -> None:
        self.session.preview(document)
        if final:
            self.session.commit(label)

    @property
    def count(self) -> int:
        node = self.session.first
        return len(node.recipe) if node else 0

    def preview(self, index: int, **fields: Any) -> None:
        self.session.preview(self._edited(index, fields))

    def change(self, index: int, label: str, **fields: Any) -> None:
        self.step(self._edited(index, fields), True, label)
        self._tell_copies(index)

    def _tell_copies(self, index: int) -> None:
        """Say it where a repeat shows less than it was asked for."""
        node = self.session.first
        i = node.recipe[index] if node is not None and index < len(node.recipe) else None
        if not isinstance(node, Group) or not isinstance(i, REPEATS) or not i.on:
            return
        if left := beyond_sight(i):
            self.session.say(f"{left} copies are left out: by these steps they are too large or too small to be seen")
        elif not standing(node):
            self.session.say("no copy has room: make the gap or the size smaller")

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
        kind, rank = self.kind_and_rank(index)
        found = ((n, recipes.counterpart(n.recipe, kind, rank)) for n in nodes)
        values = [self._on_sheet(n, n.recipe[at], field) for n, at in found if at is not None]
        return any(v != values[0] and not as_good_as(v, values[0]) for v in values[1:])

    def kind_and_rank(self, index: int) -> tuple[type, int]:
        node = self.session.first
        assert node is not None
        kind = type(node.recipe[index])
        return kind, sum(type(i) is kind for i in node.recipe[:index])

    def is_open(self, index: int) -> bool:
        return self.kind_and_rank(index) in self.open_kinds

    def toggle(self, index: int) -> None:
        """Open or close a card. One card of a kind stays open from object to object."""
        key = self.kind_and_rank(index)
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
        kind, rank = self.kind_and_rank(index)
        self.open_kinds.clear()

        def without(recipe: tuple[Ingredient, ...]) -> tuple[Ingredient, ...]:
            at = recipes.counterpart(recipe, kind, rank)
            return recipe if at is None else recipes.remove(recipe, at)

        self._each_recipe("remove ingredient", without)

    def duplicate(self, index: int) -> None:
        kind, rank = self.kind_and_rank(index)

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
        if self.count and not self.is_open(0):
            self.toggle(0)

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
        rank = self.kind_and_rank(index)[1]
        self.session.apply("fit to shape", fit_bodies(self.session.document, self.session.selection, rank))

    def add(self, ingredient: Ingredient, as_it_is: bool = False) -> None:
        """Add to all selected objects and open the new card; colours give way to such as show, unless it must stay
        ``as_it_is``."""
        nodes = self.session.nodes
        if not nodes:
            self.session.say("select an object first")
            return
        if isinstance(ingredient, REPEATS):
            self._repeat(ingredient)
            return
        if not any(recipes.fits(n, ingredient) for n in nodes):
            self.session.say("a group has no outline of its own: add this to the shapes in it")
            return
        if isinstance(ingredient, Line | Fill) and isinstance(nodes[0], Shape) and not outline(nodes[0]):
            self.session.say("this shape has no points to paint")
        self.open_kinds = {(type(ingredient), sum(type(i) is type(ingredient) for i in nodes[0].recipe))}
        give = recipes.add if as_it_is else add_to_see
        self.session.apply("add ingredient", give(self.session.document, self.session.selection, ingredient))

    def _repeat(self, ingredient: Repeat) -> None:
        """Let a repeat show the selection several times, as one group, and open its card."""
        document, holder = repeat(self.session.document, self.session.selection, ingredient)
        if holder is None:
            self.session.say("there is nothing in it to repeat")
            return
        group = find(document, holder)
        rank = sum(type(i) is type(ingredient) for i in group.recipe) - 1 if group is not None else 0
        self.open_kinds = {(type(ingredient), rank)}
        self.session.apply("repeat", document)
        self.session.select([holder])

    def add_pair(self, pair: Recipe) -> None:
        """Add ingredients that go together to all selected objects."""
        if not self.session.nodes:
            self.session.say("select an object first")
            return
        self.session.apply("add a pair", add_pair(self.session.document, self.session.selection, pair))

    def other_outlines(self) -> list[Node]:
        """All shapes but the selected ones."""
        chosen = set(self.session.selection)
        return [n for n in walk(self.session.document.root) if isinstance(n, Shape) and n.id not in chosen]

    def possible_receivers(self) -> list[Node]:
        """What shadows can fall on: shapes that are seen, and no members that only cut or guide."""
        seen = {n.id for n in seen_of(self.session.document.root)}
        return [n for n in self.other_outlines() if n.id in seen]
