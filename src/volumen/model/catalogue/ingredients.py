"""All kinds of ingredients, and what is asked of their rows."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from volumen.model.catalogue.finish import FINISH
from volumen.model.catalogue.form import FORM_CHANGES
from volumen.model.catalogue.light import LIGHT
from volumen.model.catalogue.repeats import REPEATING
from volumen.model.catalogue.rows import IngredientRow, Offer, Place
from volumen.model.catalogue.surface import SURFACE
from volumen.model.ingredients import Ingredient

INGREDIENTS: tuple[IngredientRow, ...] = (*REPEATING, *FORM_CHANGES, *SURFACE, *LIGHT, *FINISH)
INGREDIENT_ROWS: dict[type, IngredientRow] = {row.kind: row for row in INGREDIENTS}
OFFERS: tuple[tuple[Offer, IngredientRow], ...] = tuple((o, row) for row in INGREDIENTS for o in row.offers)


def row_of(i: Ingredient) -> IngredientRow:
    """The row of an ingredient's kind."""
    return INGREDIENT_ROWS[type(i)]


def acts_at(i: Ingredient) -> Place:
    """Where an ingredient acts."""
    row = INGREDIENT_ROWS[type(i)]
    return row.place if row.placed is None else row.placed(i)


def is_lit(i: Ingredient) -> bool:
    """Whether what an ingredient shows depends on lamps and materials."""
    return INGREDIENT_ROWS[type(i)].lit(i)


def references_of(i: Ingredient) -> tuple[int, ...]:
    """The ids of the nodes that an ingredient refers to."""
    field = INGREDIENT_ROWS[type(i)].refers
    held = getattr(i, field) if field else None
    return () if held is None else held if isinstance(held, tuple) else (held,)


def with_references(i: Ingredient, ids: Mapping[int, int]) -> Ingredient:
    """An ingredient that refers to other nodes instead: those among ``ids`` to what they are mapped to."""
    held = references_of(i)
    if not any(r in ids for r in held):
        return i
    field = INGREDIENT_ROWS[type(i)].refers
    new = tuple(dict.fromkeys(ids.get(r, r) for r in held))
    return replace(i, **{field: new if isinstance(getattr(i, field), tuple) else new[0]})
