"""The menu that offers all ingredients, by the parts of a recipe."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from volumen.app.panels.recipe_editor import RecipeEditor
from volumen.edit.looks import PAIRS
from volumen.model.catalogue.ingredients import OFFERS, row_of
from volumen.model.ingredients import Sliver


def add_menu(parent: QWidget, editor: RecipeEditor) -> QMenu:
    """Ingredients under their headings, pairs after the slivers, and what was copied."""
    menu = QMenu(parent)
    group = None
    for offer, row in OFFERS:
        if row.heading != group:
            group = row.heading
            menu.addSection(group)
        menu.addAction(offer.title, partial(editor.add, offer.ingredient))
        if row.kind is Sliver and offer is row.offers[-1]:
            for name, pair in PAIRS.items():
                menu.addAction(name, partial(editor.add_pair, pair))
    if editor.clipboard:
        menu.addSeparator()
        for ingredient in editor.clipboard:
            title = f"Paste {row_of(ingredient).title.lower()}"
            menu.addAction(title, partial(editor.add, ingredient, True))
    return menu
