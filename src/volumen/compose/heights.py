"""How high every sheet of a pile lies when lifts add up, and which sheets can throw a shadow on which.

A sheet is an object in which nothing is lifted: what is drawn on it belongs to it. A shape that holds lifted things is
one without them. A lifted group is the floor of what is in it. A sheet lies its own lift above what carries it: the
mean height of the highest ``CARRIES`` of the area beneath it, so that nothing jumps while it is dragged over others.
The ground is the sheet at number 0, at height 0. Nothing here depends on a lamp.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from volumen.caching import Cache
from volumen.compose import sight
from volumen.compose.sight import Sight, is_solid, is_veiled, part_of
from volumen.geometry.affine import IDENTITY, Affine, Floats, multiply
from volumen.geometry.mask import Cells, cells_of, windows_of
from volumen.geometry.path import Box, transform_box
from volumen.model.ingredients import Body, CastShadow, Fill, Line, Occlusion
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import Document, Image, Node, Shape, Sheet
from volumen.outline.making import itself, shown_children
from volumen.outline.outlines import pieces
from volumen.outline.silhouettes import silhouette
from volumen.picture.bounds import items_box
from volumen.picture.instructions import Item
from volumen.shading.lamp import Lamp
from volumen.shading.paint import face_colour

CARRIES = 0.15  # the share of a sheet that must lie on another one to be carried by it alone
_LEAST = 1e-6  # lift that throws a shadow: numbers of one's own are divided by it
_SOLID = 0.5  # paint that hides less lets the shadows beneath it show
_SIDE = 256  # cells along the longer side of the map on which sheets are laid
GROUND = 0
_NONE = np.zeros(0, np.intp)
_NOTHING = (np.nan,) * 4
_NO_WINDOW = (0.0, 0.0, -1.0, -1.0)
_insides: Cache[NDArray[np.bool_]] = Cache("maps of what holds things", 200)
_cells: Cache[OnMap] = Cache("sheets on the map of heights", most_bytes=60_000_000, lasting=False)
_RECORD = 8000  # bytes, at the most, of what is known of a sheet beside its cells
_MANY = 8  # sheets that have moved: what is seen of all is only found when it is asked for a second time


class OnMap(NamedTuple):
    """A silhouette on the map of heights, its box, and the cells of the coarser map that tells what is seen."""

    cells: Cells
    box: Box | None
    laid: sight.Laid


class Falls(NamedTuple):
    """The shadows that can fall: the numbers of the sheets that throw (n,) and catch them (n,), how far apart these lie
    (n,), and which of them each sheet throws."""

    casters: NDArray[np.intp]
    receivers: NDArray[np.intp]
    depths: Floats
    of: dict[int, slice]


Faded = tuple[tuple[int, float], ...]


class Within(NamedTuple):
    """What sheets lie in: the number of the sheet that holds them (-1 outside of all), the height of their floor, a
    lamp of their own, whether it is dark there, what they are ``faded`` by, and whether what is ``solid`` stays so."""

    holder: int = -1
    floor: float = 0.0
    lamp: Lamp | None = None
    unlit: bool = False
    faded: Faded = ()
    solid: bool = True


@dataclass(slots=True)
class Standing:
    """A sheet, or a lifted group: where it stands. ``holder`` is the number of the sheet that holds it, -1 outside of
    all, ``parent`` the id of the node it is a child of, ``lamp`` one of its own or of what it is in; ``only_throws``:
    it catches no shadows itself, as its children do, or as it is clear. ``faded``: ids and opacities of what it lies
    in, as far as that is not solid. A ``solid`` one hides what lies beneath it."""

    node: Node
    world: Affine
    parent: int
    holder: int
    lift: float
    lamp: Lamp | None
    unlit: bool
    only_throws: bool = False
    floor: float = 0.0
    height: float = 0.0
    faded: Faded = ()
    solid: bool = False

    def stands_as(self, other: Standing) -> bool:
        """Whether it is the same object and stands in the same way."""
        return self.node is other.node and self.lamp is other.lamp and self._rest() == other._rest()

    def _rest(self) -> tuple[object, ...]:
        return (
            self.world, self.parent, self.holder, self.lift, self.unlit, self.only_throws, self.floor, self.height,
            self.faded, self.solid,
        )  # fmt: skip


class Laid(NamedTuple):
    """What a sheet covered of the map: its ``cells``, those of ``whole`` that lie ``inside`` what holds it; whether it
    ``carries`` others; a window of columns and rows around it; and the shares of it that lie on each other sheet."""

    whole: Cells
    inside: NDArray[np.bool_] | None
    cells: Cells
    carries: bool
    window: Box
    under: dict[int, float]


@dataclass(slots=True)
class Heights:
    """The sheets back to front, the ground first; the ``boxes`` (n, 4) of their silhouettes and of what is ``seen`` of
    each (not a number where nothing is); and the shadows that can fall."""

    standing: list[Standing | None] = field(default_factory=lambda: [None])
    seen: Floats = field(default_factory=lambda: np.zeros((0, 4)))
    boxes: Floats = field(default_factory=lambda: np.zeros((0, 4)))
    falls: Falls = field(default_factory=lambda: Falls(_NONE, _NONE, np.zeros(0), {}))
    throws: frozenset[int] = frozenset()  # the ids of all whose shadows are among these
    laid: list[Laid] = field(default_factory=list)
    sight: Sight | None = None
    moving: bool = False  # so many sheets just moved that what is seen of each is not worth finding yet

    def number_of(self, node_id: int) -> int:
        """The number of an object's sheet; the ground's for what has none of its own."""
        return next((n for n, s in enumerate(self.standing) if s is not None and s.node.id == node_id), GROUND)


_casts: Cache[tuple[CastShadow | Occlusion, ...]] = Cache("what falls by height")


def casts(node: Node) -> tuple[CastShadow | Occlusion, ...]:
    """What of a node's recipe falls by its height: all shadows but those that lie on the ground or are squashed, and
    the light from all round that it keeps away, where that has no reach of its own."""
    hit = _casts.get(id(node.recipe))
    if hit is None:
        recipe = itself(node).recipe if not isinstance(node, Image) else ()
        found = tuple(i for i in recipe if isinstance(i, CastShadow | Occlusion) and i.on and _by_height(i))
        hit = _casts.put(id(node.recipe), node.recipe, found)
    return hit


def _by_height(i: CastShadow | Occlusion) -> bool:
    return i.reach is None if isinstance(i, Occlusion) else i.fall == "sheet" and i.squash == 1


def heights_of(document: Document, last: Heights | None = None) -> Heights:
    """The heights of a document's sheets. What lies as in the ``last`` ones, on the same map, is not counted again."""
    walk = _Laying(document.sheet, last or Heights())
    root = document.root
    walk.children(root, root.transform, Within())
    return walk.finished()


def is_lifted(node: Node) -> bool:
    """Whether a node stands on its own: lifted, or with a shadow to throw."""
    return node.lift != 0 or any(isinstance(i, CastShadow) and i.on for i in node.recipe)


_clear: Cache[bool] = Cache("whether what lies beneath a node shows through")


def is_clear(node: Node) -> bool:
    """Whether what lies beneath a node shows through it, and so do the shadows on that: of what is blended in, and of
    what is painted thinly."""
    hit = _clear.get(id(node))
    return hit if hit is not None else _clear.put(id(node), node, _is_clear(node))


def _is_clear(node: Node) -> bool:
    if node.blend != "normal" or node.opacity < _SOLID:
        return True
    if not isinstance(node, Shape):
        return all(is_clear(c) for c in shown_children(node) if c.visible and c.substance and not c.knockout)
    paints = (i for i in node.recipe if isinstance(i, Fill | Line | Body) and i.on and i.blend == "normal")
    return not any(i.opacity * _alpha(i) >= _SOLID for i in paints) and not pieces(node, IDENTITY)


def _alpha(i: Fill | Line | Body) -> float:
    """How much a paint hides on the whole."""
    if isinstance(i, Body):
        return 0.0 if i.kind == "drop" else 1.0
    face = face_colour(i.paint)
    return face.a if face is not None else 1.0


_lifted_inside: Cache[bool] = Cache("whether something lifted is in a node")


def holds_lifted(node: Node) -> bool:
    """Whether something in a node is a sheet of its own."""
    if not node.children:
        return False
    hit = _lifted_inside.get(id(node))
    if hit is None:
        found = any(c.visible and (is_lifted(c) or holds_lifted(c)) for c in shown_children(node))
        hit = _lifted_inside.put(id(node), node, found)
    return hit


class _Laying:
    """Lays sheets on a map of their numbers, back to front."""

    def __init__(self, sheet: Sheet, last: Heights) -> None:
        self.last, self.stood, self.seen = last.laid, last.standing, last.sight
        self.dirty: list[Box] = []  # windows in which something changed since
        k = _SIDE / max(sheet.width, sheet.height, 1e-6)
        self.grid: Affine = (k, 0.0, 0.0, k, 0.0, 0.0)
        self.columns, self.rows = max(round(sheet.width * k), 1), max(round(sheet.height * k), 1)
        self.size = (sheet.width, sheet.height)
        self.ground = sight.ground_of(*self.size)
        self.maps = [self.ground.whole]
        self.ids: NDArray[np.intp] = np.zeros(self.rows * self.columns, np.intp)
        self.heights = [0.0]
        self.boxes: list[Box | None] = [(0.0, 0.0, sheet.width, sheet.height)]
        self.laid = [Laid(_NONE, None, _NONE, True, _NO_WINDOW, {})]
        self.standing: list[Standing | None] = [None]
        self.inside: dict[int, NDArray[np.bool_]] = {}  # the maps of what holds things
        self.new = 0  # sheets that are not where any was
        self.cuts = False  # whether something takes holes out of what lies beneath it

    def children(self, parent: Node, world: Affine, around: Within) -> None:
        """Lay what a node shows of its children."""
        if parent.opacity < 1:
            around = around._replace(faded=(*around.faded, (parent.id, parent.opacity)))
        if around.solid and is_veiled(parent):
            around = around._replace(solid=False)
        for node in shown_children(parent):
            self.cuts = self.cuts or (node.visible and node.knockout)
            if node.visible and not node.knockout and node.substance and not isinstance(node, Image):
                own = around._replace(lamp=node.own_lamp or around.lamp, unlit=around.unlit or node.unlit)
                self._node(node, multiply(world, node.transform), parent.id, own)

    def _node(self, node: Node, world: Affine, parent: int, around: Within) -> None:
        nested = holds_lifted(node)
        whole = isinstance(node, Shape) or not nested
        clear = is_clear(node)
        standing = Standing(
            node, world, parent, around.holder, lift_on_sheet(node, world), around.lamp, around.unlit,
            not whole or clear, around.floor, faded=around.faded, solid=around.solid and is_solid(node),
        )  # fmt: skip
        if clear and not is_lifted(node):
            return  # light or shade laid over things, or too thin to hide what lies beneath
        if not whole and not is_lifted(node):
            self.children(node, world, around)
            return
        number = self._lay(standing)
        if nested:
            inner = number if isinstance(node, Shape) else around.holder
            self.children(node, world, around._replace(holder=inner, floor=standing.height))

    def _lay(self, standing: Standing) -> int:
        """Lay a sheet on those beneath it; its number."""
        number, node = len(self.heights), standing.node
        whole, box, on_map = self._on_map(silhouette(node, standing.world))
        laid = self._laid(whole, box, self.inside.get(standing.holder), not standing.only_throws)
        standing.height = max(self._carried(laid.under), standing.floor) + max(standing.lift, 0.0)
        self.heights.append(standing.height)
        self.boxes.append(box)
        self.maps.append(on_map)
        self.laid.append(laid)
        known = self.stood[number] if number < len(self.stood) else None
        self.standing.append(known if known is not None and known.stands_as(standing) else standing)
        if laid.carries:
            self.ids[laid.cells] = number
            if isinstance(node, Shape) and node.children:
                self.inside[number] = self._inside(laid.cells)
        return number

    def _laid(self, whole: Cells, box: Box | None, inside: NDArray[np.bool_] | None, carries: bool) -> Laid:
        """What the next sheet covers; as it was known where nothing beneath it changed."""
        number = len(self.laid)
        known = self.last[number] if number < len(self.last) else None
        if known is not None and known.whole is whole and known.inside is inside and known.carries == carries:
            l, t, r, b = known.window
            if not any(l <= u and x <= r and t <= v and y <= b for x, y, u, v in self.dirty):
                return known
            return known._replace(under=self._under(known.cells))
        cells = whole[inside.take(whole)] if inside is not None else whole
        window = transform_box(box, self.grid) if box is not None else _NO_WINDOW
        self.dirty += [window] if known is None else [window, known.window]
        return Laid(whole, inside, cells, carries, window, self._under(cells))

    def _under(self, cells: Cells) -> dict[int, float]:
        """The shares of some cells that lie on each sheet."""
        counts = np.bincount(self.ids.take(cells)) if len(cells) else _NONE
        return {k: counts[k] / len(cells) for k in np.flatnonzero(counts).tolist()}

    def _inside(self, cells: Cells) -> NDArray[np.bool_]:
        """The map of what holds things; the same while its cells are the same."""
        hit = _insides.get(id(cells))
        if hit is None:
            hit = _insides.put(id(cells), cells, np.zeros(len(self.ids), np.bool_))
            hit[cells] = True
        return hit

    def _on_map(self, items: tuple[Item, ...]) -> OnMap:
        own = (id(items), *self.size)
        hit = _cells.get(own)
        if hit is not None:
            return hit
        parts = tuple(map(part_of, items))
        key = (tuple([(id(part.path), *part[1:]) for part in parts]), *self.size)
        hit = _cells.get(key)  # by the outlines: a holder is another object when something in it moves
        if hit is None:
            box = items_box(items)
            cells = cells_of(parts, box, self.grid, self.columns, self.rows) if box else _NONE
            laid = self.ground.laid(parts, box or _NO_WINDOW)
            hit = _cells.put(key, items, OnMap(cells, box, laid), cells.nbytes + _RECORD)
            self.new += 1
        return _cells.put(own, items, hit, _RECORD)

    def _carried(self, under: dict[int, float]) -> float:
        """The mean height of the highest part of what lies under a sheet."""
        left, sum_ = CARRIES, 0.0
        for height, share in sorted([(self.heights[k], s) for k, s in under.items()], reverse=True):
            taken = min(share, left)
            sum_, left = sum_ + taken * height, left - taken
            if left <= 0:
                break
        return sum_ / (CARRIES - left) if left < CARRIES else 0.0

    def finished(self) -> Heights:
        """The heights with what is seen of each sheet and the shadows that can fall."""
        k = 1 / self.grid[0]
        boxes = np.array([box or _NOTHING for box in self.boxes])
        seen = boxes.copy()  # of hairs, which have no cell of the map, all may be
        seen[[GROUND, *(n for n, laid in enumerate(self.laid) if len(laid.cells))]] = np.nan
        windows = windows_of(self.ids, self.columns, len(boxes))
        found = ~np.isnan(windows[:, 0])  # a cell more on each side: what is seen of it may begin anywhere in one
        seen[found] = (windows[found] + (-1, -1, 1, 1)) * k
        if not np.isnan(seen[GROUND, 0]):
            seen[GROUND] = boxes[GROUND]
        throws = frozenset(s.node.id for s in self.standing if s and s.lift > _LEAST and casts(s.node))
        hides = [s is not None and s.solid and not self.cuts for s in self.standing]
        shows = Sight(self.ground, self.maps, hides, [-1 if s is None else s.holder for s in self.standing], self.seen)
        moving = self.new > _MANY and len(self.last) > 0
        return Heights(self.standing, seen, boxes, self._falls(seen), throws, self.laid, shows, moving)

    def _falls(self, seen: Floats) -> Falls:
        """The shadows that sheets can throw: on what lies beneath and behind them, in what holds them."""
        heights = np.array(self.heights)
        catches = np.array([s is None or not s.only_throws for s in self.standing]) & ~np.isnan(seen[:, 0])
        held: dict[int, NDArray[np.bool_]] = {}
        of: dict[int, slice] = {}
        receivers, depths, count = [_NONE], [np.zeros(0)], 0
        for number, s in enumerate(self.standing):
            if s is None or s.lift <= _LEAST or s.unlit or not casts(s.node):
                continue
            depth = s.height - heights[:number]
            for receiver, share in self.laid[number].under.items():
                if depth[receiver] < s.lift:  # something high under a small part of it: grows with that part
                    depth[receiver] += (s.lift - depth[receiver]) * min(share / CARRIES, 1.0)
            may = catches[:number] & (depth > 0)
            if s.holder >= 0:
                if s.holder not in held:
                    held[s.holder] = np.array([self._within(n, s.holder) for n in range(len(self.standing))])
                may &= held[s.holder][:number]
            receivers.append(np.flatnonzero(may))
            depths.append(depth[may])
            of[number] = slice(count, count + len(receivers[-1]))
            count = of[number].stop
        casters = np.repeat(np.array(list(of), np.intp), [part.stop - part.start for part in of.values()])
        return Falls(casters, np.concatenate(receivers), np.concatenate(depths), of)

    def _within(self, number: int, holder: int) -> bool:
        """Whether a sheet is a holder or lies in it."""
        while number != holder:
            standing = self.standing[number] if number >= 0 else None
            if standing is None:
                return False
            number = standing.holder
        return True
