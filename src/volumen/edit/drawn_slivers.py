"""Slivers that a hand drew as shapes: tones of one side of the shape that holds them or lies beneath them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import msgspec
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_erosion

from volumen.caching import Cache
from volumen.colour import oklab
from volumen.geometry.affine import IDENTITY, Affine, Floats, Point, invert, multiply, rotation
from volumen.geometry.mask import Cells, Part, cells_in
from volumen.geometry.path import Box, Path, grow_box, transform_box
from volumen.model.ingredients import Fill
from volumen.model.nodes import Document, Node, Shape
from volumen.model.tree import place_of, update_nodes
from volumen.outline.outlines import outline
from volumen.shading.blending import TONAL, laid_over
from volumen.shading.paint import Colour, Solid, face_colour

_SIDE = 24  # cells along each side of a shape's box
_LEAST, _MOST = 0.02, 0.5  # of the shape that a sliver covers
_INSIDE = 0.85  # of a sliver lies in the shape beneath it
_ASIDE = 0.45  # of the shape's spread that a sliver lies off its middle
_RIM, _AT_RIM = 2, 0.25  # cells from the outline, and how much of a sliver lies as near
_TONE = 0.03  # of lightness (0..1), less is no tone
_SAME_HUE = 35.0  # degrees in Oklab
_GREY = 0.04  # chroma below which a colour has no hue


@dataclass(frozen=True, slots=True)
class DrawnSliver:
    """A shape (its node, and the number of its fill) that lays a tone on one side of another."""

    node: int
    index: int
    kind: str  # "light" or "shade"
    side: Point  # the unit vector on the sheet from the middle of what it lies on
    about: Point  # that middle, on the sheet


@dataclass(slots=True)
class _Tone:
    """A shape that lies on another in one tone."""

    node: Node
    index: int
    lighter: bool
    paint: Solid
    cells: Cells


def drawn_slivers(chain: Sequence[Node]) -> Iterator[DrawnSliver]:
    """The slivers drawn on the shape at the end of a chain: those that it holds, and those that lie upon it among its
    siblings. Tones of one paint that lie all over it are a pattern and no slivers."""
    node = chain[-1]
    face = _face(node) if isinstance(node, Shape) else None
    if face is None or not isinstance(node, Shape):
        return
    world = place_of(chain)
    path = outline(node, IDENTITY).transformed(world)
    box = path.bounds()
    if box is None or box[2] <= box[0] or box[3] <= box[1]:
        return
    on_it = [*_held(node, world), *_upon(chain, box)]
    if not on_it:
        return
    whole = _cells(path, box)
    tones = [t for shape, place in on_it if (t := _tone(shape, place, face, whole, box)) is not None]
    for tone in tones:
        alike = [t.cells for t in tones if t.paint == tone.paint]
        if _off_middle(np.concatenate(alike), whole, box) is None:
            continue
        side = _off_middle(tone.cells, whole, box)
        if side is not None:
            middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
            yield DrawnSliver(tone.node.id, tone.index, "light" if tone.lighter else "shade", side, middle)


def turned_over(document: Document, found: DrawnSliver, parent: Affine) -> Document:
    """The document with a sliver on the other side of what it lies on; ``parent`` places what the sliver is in."""
    back = invert(parent)
    if back is None:
        return document
    turn = multiply(back, multiply(rotation(180.0, found.about), parent))
    return update_nodes(
        document, [found.node], lambda n: msgspec.structs.replace(n, transform=multiply(turn, n.transform))
    )


def _face(node: Node) -> Colour | None:
    """The colour that a shape's front opaque fill shows by and large."""
    fills = (i for i in reversed(node.recipe) if isinstance(i, Fill) and i.on and i.opacity > 0.5)
    top = next(fills, None)
    return face_colour(top.paint) if top is not None else None


def _held(node: Node, world: Affine) -> Iterator[tuple[Shape, Affine]]:
    for child in node.children:
        if isinstance(child, Shape):
            yield child, multiply(world, child.transform)


def _upon(chain: Sequence[Node], box: Box) -> Iterator[tuple[Shape, Affine]]:
    """Siblings in front of a shape whose box lies in the shape's, by and large."""
    if len(chain) < 2:
        return
    siblings, place = chain[-2].children, place_of(chain[:-1])
    own = next((k for k, s in enumerate(siblings) if s is chain[-1]), len(siblings))
    boxes = _boxes_of(chain[-2], place)[own + 1 :]
    l, t, r, b = grow_box(box, 0.15 * max(box[2] - box[0], box[3] - box[1]))
    inside = np.all((boxes >= (l, t, -np.inf, -np.inf)) & (boxes <= (np.inf, np.inf, r, b)), axis=1)
    for k in np.flatnonzero(inside).tolist():
        sibling = siblings[own + 1 + k]
        if isinstance(sibling, Shape):
            yield sibling, multiply(place, sibling.transform)


_boxes: Cache[Floats] = Cache("boxes of siblings", 64)  # every one of them asks for those before it


def _boxes_of(parent: Node, place: Affine) -> Floats:
    """The boxes (n, 4) on the sheet of a node's children; no numbers for what is no shape."""
    hit = _boxes.get((id(parent), place))
    if hit is not None:
        return hit
    rows = [
        transform_box(hull, multiply(place, c.transform))
        if isinstance(c, Shape) and (hull := outline(c, IDENTITY).hull()) is not None
        else (np.nan,) * 4
        for c in parent.children
    ]
    return _boxes.put((id(parent), place), parent, np.array(rows, np.float64).reshape(-1, 4))


def _tone(shape: Shape, place: Affine, face: Colour, whole: Cells, box: Box) -> _Tone | None:
    """The tone that a shape of one plain fill lays on a face, along the rim of what it lies on; None if it does not."""
    index = _only_fill(shape)
    if index is None:
        return None
    fill = shape.recipe[index]
    assert isinstance(fill, Fill) and isinstance(fill.paint, Solid)
    lighter = _is_lighter(fill, fill.paint.colour, face, shape.opacity)
    if lighter is None:
        return None
    covered = _cells(outline(shape, IDENTITY).transformed(place), box)
    seen = np.intersect1d(covered, whole)
    share = len(seen) / max(len(whole), 1)
    if not _LEAST <= share <= _MOST or len(seen) < _INSIDE * len(covered):
        return None
    if np.isin(seen, _rim(whole)).mean() < _AT_RIM:
        return None
    return _Tone(shape, index, lighter, fill.paint, seen)


def _only_fill(shape: Shape) -> int | None:
    """The number of a shape's fill where that is plain, and all that the shape shows."""
    if not shape.visible or shape.knockout or shape.children:
        return None
    shown = [k for k, i in enumerate(shape.recipe) if getattr(i, "on", True)]
    if len(shown) != 1:
        return None
    only = shape.recipe[shown[0]]
    return shown[0] if isinstance(only, Fill) and isinstance(only.paint, Solid) else None


def _is_lighter(fill: Fill, c: Colour, face: Colour, opacity: float) -> bool | None:
    """Whether a fill makes a face lighter, or darker; None if it is no tone of it but another colour."""
    if fill.blend not in TONAL:
        return None
    alpha = c.a * fill.opacity * opacity
    seen = laid_over(np.array(face.rgb), np.array(c.rgb), alpha, fill.blend)
    there, before = oklab.from_srgb(seen), oklab.from_srgb(np.array(face.rgb))
    step = float(there[0] - before[0])
    is_tone = fill.blend != "normal" or _same_hue(there, before)  # what is blended is there for its tone
    return step > 0 if is_tone and abs(step) >= _TONE else None


def _same_hue(a: NDArray[np.float64], b: NDArray[np.float64]) -> bool:
    if min(np.hypot(*a[1:]), np.hypot(*b[1:])) < _GREY:
        return True
    turn = math.degrees(math.atan2(a[2], a[1]) - math.atan2(b[2], b[1]))
    return abs((turn + 180) % 360 - 180) < _SAME_HUE


# -- cells of a shape's box


def _cells(path: Path, box: Box) -> Cells:
    """The cells of a box that a path covers."""
    return cells_in(Part(path, IDENTITY), box, _SIDE)


def _rim(whole: Cells) -> Cells:
    """Of the cells that a shape covers, those near one that it does not."""
    grid = np.zeros((_SIDE, _SIDE), np.bool_)
    grid[whole // _SIDE, whole % _SIDE] = True
    inner = binary_erosion(grid, iterations=_RIM)
    return np.asarray(np.flatnonzero(grid & ~inner), np.intp)


def _off_middle(cells: Cells, whole: Cells, box: Box) -> Point | None:
    """The unit vector from the middle of a shape to that of some cells; None if they lie about its middle."""
    across = np.array([box[2] - box[0], box[3] - box[1]]) / _SIDE
    own = np.stack([cells % _SIDE, cells // _SIDE], axis=1) * across
    all_of_it = np.stack([whole % _SIDE, whole // _SIDE], axis=1) * across
    off = own.mean(axis=0) - all_of_it.mean(axis=0)
    far = math.hypot(*off)
    if far < _ASIDE * math.sqrt(all_of_it.var(axis=0).sum()):
        return None
    return float(off[0] / far), float(off[1] / far)
