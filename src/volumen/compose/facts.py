"""What a recipe has of each kind, told once: most nodes have little, and a turning lamp asks all of them each frame."""

from __future__ import annotations

import msgspec

from volumen.caching import Cache
from volumen.model.catalogue.ingredients import acts_at, references_of, row_of
from volumen.model.ingredients import Block, Recipe, Seams

_known: Cache[Facts] = Cache("facts of recipes")


class Facts(msgspec.Struct, frozen=True):
    """Of what is on: ``falls`` shadows that take the colour beneath them; ``behind`` shadows and glows behind the
    outline; ``refers`` to other nodes; ``rims``; ``finish``, which acts on all that is shown; ``seams`` to close;
    ``blocks``."""

    falls: bool
    behind: bool
    refers: bool
    rims: bool
    finish: bool
    seams: bool
    blocks: bool


def facts_of(recipe: Recipe) -> Facts:
    """The facts of a recipe; told once for each."""
    hit = _known.get(id(recipe))
    return hit if hit is not None else _known.put(id(recipe), recipe, _told(recipe))


def _told(recipe: Recipe) -> Facts:
    on = [i for i in recipe if i.on]
    places = {acts_at(i) for i in on}
    return Facts(
        falls=any(row_of(i).beneath and getattr(i, "colour", None) is None for i in on),
        behind="behind" in places,
        refers=any(references_of(i) for i in on),
        rims="rim" in places,
        finish=any(acts_at(i) == "finish" and not isinstance(i, Seams) for i in on),
        seams=any(isinstance(i, Seams) for i in on),
        blocks=any(isinstance(i, Block) for i in on),
    )
