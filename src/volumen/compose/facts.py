"""What a recipe has of each kind, told once: most nodes have little, and a turning lamp asks all of them each frame."""

from __future__ import annotations

import msgspec

from volumen.caching import Cache
from volumen.model.ingredients import (
    Adjust,
    Blur,
    CastShadow,
    ContactShadow,
    Feather,
    GroundGlow,
    OuterGlow,
    Recipe,
    Rim,
    Seams,
    Sliver,
)

_known: Cache[Facts] = Cache("facts of recipes")


class Facts(msgspec.Struct, frozen=True):
    """Of what is on: ``falls`` shadows that take the colour beneath them; ``behind`` shadows and glows behind the
    outline; ``refers`` to other nodes; ``rims``; ``finish``, which acts on all that is shown; ``seams`` to close."""

    falls: bool
    behind: bool
    refers: bool
    rims: bool
    finish: bool
    seams: bool


def facts_of(recipe: Recipe) -> Facts:
    hit = _known.get(id(recipe))
    return hit if hit is not None else _known.put(id(recipe), recipe, _told(recipe))


def _told(recipe: Recipe) -> Facts:
    on = [i for i in recipe if i.on]
    shadows = [i for i in on if isinstance(i, CastShadow | ContactShadow)]
    return Facts(
        falls=any(i.colour is None for i in shadows),
        behind=bool(shadows) or any(isinstance(i, OuterGlow | GroundGlow) for i in on),
        refers=any(
            (isinstance(i, CastShadow) and i.receivers) or (isinstance(i, Sliver) and i.other is not None) for i in on
        ),
        rims=any(isinstance(i, Rim) and not i.inside for i in on),
        finish=any(isinstance(i, Blur | Feather | Adjust) for i in on),
        seams=any(isinstance(i, Seams) for i in on),
    )
