"""The menu that offers all ingredients, by the parts of a recipe."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QMenu

from volumen.app.fields import CARDS, defaults
from volumen.edit.looks import PAIRS

if TYPE_CHECKING:
    from volumen.app.recipe_panel import RecipePanel


def add_menu(panel: RecipePanel) -> QMenu:
    """Ingredients under their headings, pairs after the slivers, and what was copied."""
    menu = QMenu(panel)
    group = None
    for title, ingredient in defaults().items():
        heading = CARDS[type(ingredient)].heading
        if heading != group:
            group = heading
            menu.addSection(heading)
        menu.addAction(title, partial(panel.add, ingredient))
        if title.startswith("Edge light"):  # the last sliver
            for name, pair in PAIRS.items():
                menu.addAction(name, partial(panel.add_pair, pair))
    if panel.clipboard:
        menu.addSeparator()
        for ingredient in panel.clipboard:
            title = f"Paste {CARDS[type(ingredient)].title.lower()}"
            menu.addAction(title, partial(panel.add, ingredient, True))
    return menu
