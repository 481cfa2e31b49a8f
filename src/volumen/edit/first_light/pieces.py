"""What there is to light: the pieces of a drawing, with the facts of their shapes and of what they lie on."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.compose.face import base_colour
from volumen.geometry.affine import IDENTITY, Affine, multiply, translation
from volumen.geometry.curve import flatten
from volumen.geometry.path import Path
from volumen.geometry.winding import simplified
from volumen.model.catalogue.ingredients import row_of
from volumen.model.ingredients import Blur, Feather, Fill, Line
from volumen.model.nodes import Document, Group, Node, Shape, Sheet, TextForm
from volumen.model.tree import painted_children
from volumen.outline.lines import line_outline
from volumen.outline.outlines import outline
from volumen.picture.stopping import Stop, raise_if
from volumen.shading.bodies import fitting_turn
from volumen.shading.paint import GRADIENTS, MeshPaint, Solid

Area = Any  # a shapely geometry
_MOST_CHORDS = 20_000  # along the diagonal of a piece
_LONG = 12_000  # points of an outline that the engine may take minutes over
_MOST_PLACES = 5000  # along the borders of an area
_MOST_UNTIED = 2000  # places on a border that crosses itself here and there
_PLACES = 14  # along each side of a piece, where is looked for what hides it
_GOOD_PART = 0.15  # of a piece, that another one hides
_LIES_ON = 0.5  # share of a piece that lies on another one


@dataclass(slots=True)
class Piece:
    """A visible shape on the sheet.

    ``thick`` is its mean thickness, ``compact`` 1 for a circle, ``convex`` its share of its hull, ``full`` its share of
    its box, ``long`` how many times longer than wide its tightest box is; ``lch`` is its colour in OKLCH. ``on`` is the
    piece that carries it, by the share ``inside``; ``shown`` is the share of it that no other one hides, ``leaves`` the
    least such share of those that it hides a good part of.
    """

    node: Shape
    world: Affine
    area: Area
    lch: tuple[float, float, float]
    alpha: float
    gradient: bool
    fades: bool
    lit: bool
    size: float
    thick: float
    compact: float
    convex: float
    full: float
    long: float
    on: Piece | None = None
    inside: float = 0.0
    carries: int = 0
    shown: float = 1.0
    leaves: float = 1.0
    role: str = "sheet"
    _turn: float | None = None

    @property
    def turn(self) -> float:
        """The angle of the tube that fits it; worked out once."""
        if self._turn is None:
            self._turn = fitting_turn("tube", outline(self.node, self.world))
        return self._turn

    @property
    def see_through(self) -> bool:
        """Whether what it lies on shows through it."""
        return self.alpha < 0.85

    @property
    def text(self) -> bool:
        """Whether it is live text."""
        return isinstance(self.node.form, TextForm)

    @property
    def holed(self) -> bool:
        """Whether something shows through a hole in it."""
        return bool(shapely.get_num_interior_rings(shapely.get_parts(self.area)).sum())


def pieces_of(document: Document, stop: Stop | None = None) -> list[Piece]:
    """All pieces, back to front, with what carries each of them. Raises Stopped where ``stop`` says so."""
    found: list[Piece] = []
    for node, world in _shapes(document.root, IDENTITY):
        raise_if(stop)
        piece = _piece(node, world, document.sheet)
        if piece is not None:
            found.append(piece)
    _carried(found, stop)
    return found


def _shapes(node: Node, world: Affine) -> Iterator[tuple[Shape, Affine]]:
    """Shapes that are painted, back to front, with their places; what is in a group that is hidden is left out."""
    if isinstance(node, Shape):
        yield node, world
    if not isinstance(node, Shape | Group):
        return
    for child in painted_children(node):
        if child.visible and not child.knockout:
            yield from _shapes(child, multiply(world, child.transform))


def _piece(node: Shape, world: Affine, sheet: Sheet) -> Piece | None:
    on = [i for i in node.recipe if i.on]
    fill = next((i for i in reversed(on) if isinstance(i, Fill) and i.opacity > 0), None)
    line = next((i for i in on if isinstance(i, Line) and i.width > 0), None)
    path = outline(node, world)
    if fill is None and line is not None:
        path = line_outline(path, line, world) or Path()
    elif fill is None:
        return None
    area = _area(path.transformed(world), math.hypot(sheet.width, sheet.height) * 5e-4)
    if area is None:
        return None
    hull, tight = shapely.convex_hull(area), shapely.minimum_rotated_rectangle(area)
    corners = shapely.get_coordinates(tight)
    sides = sorted(np.hypot(*np.diff(corners[:3], axis=0).T).tolist()) if len(corners) >= 4 else [1e-9, 1.0]
    l, t, r, b = area.bounds
    colour = base_colour(node)
    lum, chroma, hue = oklab.to_lch(oklab.from_srgb(colour.rgb)).tolist()
    paint = fill.paint if fill is not None else None
    stops = getattr(paint, "stops", ()) if isinstance(paint, GRADIENTS) else ()
    size = float(area.area)
    return Piece(
        node, world, area, (lum, chroma, hue),
        (paint.colour.a if isinstance(paint, Solid) else 1.0) * (fill.opacity if fill else 1.0) * node.opacity,
        bool(stops) or isinstance(paint, MeshPaint),
        any(s.colour.a < 0.25 for s in stops) or any(isinstance(i, Blur | Feather) for i in on),
        any(row_of(i).heading == "Light" for i in on),
        math.sqrt(size), 2 * size / float(area.length), 4 * math.pi * size / float(area.length) ** 2,
        size / max(float(hull.area), 1e-12), size / max((r - l) * (b - t), 1e-12), sides[1] / max(sides[0], 1e-9),
    )  # fmt: skip


def _area(path: Path, chord: float) -> Area | None:
    """A path as an area; None where there is nothing to see."""
    box = path.hull()
    if box is None:
        return None
    # About its own middle: far from the sheet the engine's places are whole steps apart, and nothing is in order there.
    middle = np.array([(box[0] + box[2]) / 2, (box[1] + box[3]) / 2])
    path = path.transformed(translation(*(-middle).tolist()))
    plain = simplified(path) if sum(len(c.points) for c in path.contours) < _LONG else path
    chord = max(chord, math.dist(box[:2], box[2:]) / _MOST_CHORDS)
    rings: tuple[list[Area], list[Area]] = ([], [])
    for contour in plain.contours:
        points = flatten(contour, chord)[0]
        if len(points) > 3:
            rings[contour.area() < 0].append(_polygon(points + middle, plain is path))
    if not rings[0]:
        return None
    made = shapely.union_all(rings[0])
    if rings[1]:
        made = shapely.difference(made, shapely.union_all(rings[1]))
    made = _coarse(made)
    return made if made.area > 1e-9 and made.length > 0 else None


def _coarse(area: Area) -> Area:
    """An area with so few places along its borders that its meeting with others is found in a moment."""
    if shapely.get_num_coordinates(area) <= _MOST_PLACES:
        return area
    l, t, r, b = area.bounds
    area = shapely.simplify(area, math.hypot(r - l, b - t) * 1e-3)
    return area if shapely.get_num_coordinates(area) <= _MOST_PLACES else shapely.convex_hull(area)


def _polygon(points: Floats, tangled: bool) -> Area:
    """An area within its border (n, 2); one that cannot be untied in a moment counts as its hull."""
    made = shapely.polygons(points)
    if shapely.is_valid(made):
        return made
    return shapely.convex_hull(made) if tangled or len(points) > _MOST_UNTIED else shapely.make_valid(made)


def _carried(found: list[Piece], stop: Stop | None) -> None:
    """What each piece lies on: the foremost one before it that lies under more than half of it."""
    if not found:
        return
    tree = shapely.STRtree([p.area for p in found])
    places = []
    for p in found:
        raise_if(stop)
        places.append(_places(p.area))
    hidden = [np.zeros(len(at), np.bool_) for at in places]
    hides: list[tuple[int, int]] = []
    for k, piece in enumerate(found):
        raise_if(stop)
        below = sorted((j for j in tree.query(piece.area, "intersects").tolist() if j < k), reverse=True)
        for j in below:
            raise_if(stop)
            share = float(shapely.intersection(piece.area, found[j].area).area) / piece.area.area
            if share > _LIES_ON:
                piece.on, piece.inside = found[j], share
                found[j].carries += 1
                break
        for j in below if not (piece.see_through or piece.fades) else ():
            raise_if(stop)
            under = shapely.contains_xy(piece.area, *places[j].T)
            hidden[j] |= under
            if under.sum() > _GOOD_PART * len(under):
                hides.append((k, j))
    for piece, out in zip(found, hidden, strict=True):
        piece.shown = 1.0 - float(out.mean()) if len(out) else 1.0
    for k, j in hides:
        found[k].leaves = min(found[k].leaves, found[j].shown)


def _places(area: Area) -> Floats:
    """Some places (n, 2) all over an area."""
    l, t, r, b = area.bounds
    steps = (np.arange(_PLACES) + 0.5) / _PLACES
    x, y = (v.ravel() for v in np.meshgrid(l + steps * (r - l), t + steps * (b - t)))
    inside = shapely.contains_xy(area, x, y)
    return np.stack([x[inside], y[inside]], axis=1)
