"""The ingredient that gives outlines depth."""

from __future__ import annotations

import msgspec

from volumen.geometry.affine import Point
from volumen.shading.paint import Colour


class Block(msgspec.Struct, frozen=True, tag="block"):
    """Depth behind the outline: the walls that one sees from the front, each in its own tone.

    It runs ``depth`` far to a bearing ``angle`` on the sheet, None away from the lamp; or, with a ``point`` in the
    object's own coordinates, a ``share`` of the way towards that. Walls have the tones of the material in a ``colour``
    (None takes that of the paint), or own colours by the way they face; without ``faces`` they are not painted. The
    edge of the front is bevelled ``bevel`` wide. A line as wide as ``edge`` runs along all edges that are seen, but for
    a ``broken`` share of them that is left out by lot (``seed``), and the ``omitted`` ones, by number
    (``outline.blocks.Edge``). In a text ``own`` gives letters, by the numbers of their characters, bearings of their
    own.
    """

    depth: float = 40.0
    angle: float | None = 135.0
    point: Point | None = None
    share: float = 0.25
    material: str = "paper"
    colour: Colour | None = None
    above: Colour | None = None
    right: Colour | None = None
    below: Colour | None = None
    left: Colour | None = None
    faces: bool = True
    bevel: float = 0.0
    edge: float = 0.0
    edge_colour: Colour = Colour(0.05, 0.09, 0.12)
    broken: float = 0.0
    seed: int = 1
    omitted: tuple[int, ...] = ()
    own: tuple[tuple[int, float], ...] = ()
    on: bool = True
    each: bool = False
