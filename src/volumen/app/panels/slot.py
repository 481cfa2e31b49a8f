"""One ingredient of the recipe, as the controls of its card see it."""

from __future__ import annotations

from collections.abc import Callable

from volumen.app.panels.recipe_editor import RecipeEditor
from volumen.app.state.session import Session
from volumen.model.ingredients import Ingredient


class IngredientSlot:
    """The ingredient with the number ``index`` in the recipe of what is selected. ``updates`` are called when it has new
    values."""

    def __init__(self, editor: RecipeEditor, index: int, ingredient: Ingredient) -> None:
        self.editor, self.index, self.ingredient = editor, index, ingredient
        self.updates: list[Callable[[], None]] = []
        self._owner = self._first()

    @property
    def session(self) -> Session:
        return self.editor.session

    def preview(self, **fields: object) -> None:
        """Show it with other values: a moment of a gesture."""
        if self.is_there:
            self.editor.preview(self.index, **fields)

    def change(self, label: str, **fields: object) -> None:
        """Give it other values, as one step of undo."""
        if self.is_there:
            self.editor.change(self.index, label, **fields)

    @property
    def is_there(self) -> bool:
        """Whether the ingredient is still what it was: a card on its way out may yet be told what was typed in it."""
        node = self.session.first
        recipe = node.recipe if node is not None else ()
        same = self.index < len(recipe) and type(recipe[self.index]) is type(self.ingredient)
        return same and self._first() == self._owner

    def _first(self) -> int | None:
        node = self.session.first
        return node.id if node is not None else None

    def show(self, ingredient: Ingredient) -> None:
        """Take over new values without making any widget anew."""
        self.ingredient = ingredient
        for update in self.updates:
            update()
