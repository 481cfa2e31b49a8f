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

    @property
    def session(self) -> Session:
        return self.editor.session

    def preview(self, **fields: object) -> None:
        """Show it with other values: a moment of a gesture."""
        self.editor.preview(self.index, **fields)

    def change(self, label: str, **fields: object) -> None:
        """Give it other values, as one step of undo."""
        self.editor.change(self.index, label, **fields)

    def show(self, ingredient: Ingredient) -> None:
        """Take over new values without making any widget anew."""
        self.ingredient = ingredient
        for update in self.updates:
            update()
