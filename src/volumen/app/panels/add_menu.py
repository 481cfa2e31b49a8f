"""The menu that offers all ingredients, by the parts of a recipe."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QMenu

from volumen.edit.looks import PAIRS
from volumen.model.catalogue.ingredients import OFFERS, row_of
from volumen.model.ingredients import Sliver

if TYPE_CHECKING:
    from volumen.app.panels.recipe_panel import RecipePanel


def add_menu(panel: RecipePanel) -> QMenu:
    """Ingredients under their headings, pairs after the slivers, and what was copied."""
    menu = QMenu(panel)
    group = None
    for offer, row in OFFERS:
        if row.heading != group:
            group = row.heading
            menu.addSection(group)
        menu.addAction(offer.title, partial(panel.add, offer.ingredient))
        if row.kind is Sliver and offer is row.offers[-1]:
            for name, pair in PAIRS.items():
                menu.addAction(name, partial(panel.add_pair, pair))
    if panel.clipboard:
        menu.addSeparator()
        for ingredient in panel.clipboard:
            title = f"Paste {row_of(ingredient).title.lower()}"
            menu.addAction(title, partial(panel.add, ingredient, True))
    return menu
