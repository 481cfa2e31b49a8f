"""Which numbers of ingredients and forms are lengths, and what becomes of them when things are scaled.

Lengths are kept in the object's own units: whatever scales the object scales them, lift too, so that a picture scaled
is the picture of the scaled document and linked copies of different sizes share their recipe. On the sheet a length
is its own value times the mean scale of the object's place, the same in every direction; cards show and take that.
"""

from __future__ import annotations

from typing import Any

import msgspec

from volumen.geometry.affine import IDENTITY, Affine, apply, mean_scale
from volumen.model.catalogue.forms import FORMS
from volumen.model.catalogue.ingredients import INGREDIENTS, row_of
from volumen.model.catalogue.rows import FormRow, IngredientRow
from volumen.model.ingredients import Block, Fill, Ingredient, Line, Recipe, Rounding
from volumen.model.nodes import Form, Node, RectangleForm
from volumen.shading.carried import carried

replace = msgspec.structs.replace
_ALL: tuple[IngredientRow | FormRow, ...] = (*INGREDIENTS, *FORMS)
LENGTHS: dict[type, tuple[str, ...]] = {row.kind: row.lengths for row in _ALL if row.lengths}


def is_length(owner: object, field: str) -> bool:
    """Whether a field of an ingredient or form is a length (an offset in percent is none)."""
    return field in LENGTHS.get(type(owner), ()) and not getattr(owner, "percent", False)


def lift_on_sheet(node: Node, world: Affine) -> float:
    """How far a node is lifted, in sheet units; ``world`` is its place."""
    return node.lift * mean_scale(world)


def scaled_lengths(i: Ingredient, k: float) -> Ingredient:
    """An ingredient with all its lengths times ``k``."""
    fields: dict[str, Any] = {
        f: value * k for f in LENGTHS.get(type(i), ()) if is_length(i, f) and (value := getattr(i, f)) is not None
    }
    if isinstance(i, Line) and i.dashes:
        fields["dashes"] = tuple(d * k for d in i.dashes)
    if isinstance(i, Rounding) and i.own:
        fields["own"] = tuple((n, r * k) for n, r in i.own)
    fields |= {f: getattr(i, f) * k * k for f in row_of(i).areas}
    return replace(i, **fields) if fields else i


def scaled_recipe(recipe: Recipe, k: float) -> Recipe:
    """A recipe with all its lengths times ``k``."""
    return tuple(scaled_lengths(i, k) for i in recipe)


def scaled_radii(form: Form, k: float) -> Form:
    """A form with the radii of its corners times ``k``."""
    if not isinstance(form, RectangleForm):
        return form
    radii = None if form.radii is None else tuple(r * k for r in form.radii)
    return replace(form, radius=form.radius * k, radii=radii)


def carried_recipe(recipe: Recipe, m: Affine) -> Recipe:
    """A recipe as it is in the coordinates that ``m`` maps to."""
    if m == IDENTITY:
        return recipe
    return tuple(_carried(i, m) for i in scaled_recipe(recipe, mean_scale(m)))


def _carried(i: Ingredient, m: Affine) -> Ingredient:
    """An ingredient with its paint and the places that it names as they are in other coordinates."""
    if isinstance(i, Fill):
        return replace(i, paint=carried(i.paint, m))
    if isinstance(i, Line):
        return replace(i, paint=carried(i.paint, m), omitted=tuple(apply(m, p) for p in i.omitted))
    if isinstance(i, Block) and i.point is not None:
        return replace(i, point=apply(m, i.point))
    return i
