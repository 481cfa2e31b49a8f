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
from scipy.ndimage import find_objects

from volumen.caching import Cache
from volumen.geometry.affine import Affine, Floats, multiply
from volumen.geometry.mask import Mask, Part, mask_of
from volumen.geometry.path import Box
from volumen.model.ingredients import CastShadow
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import Document, Image, Node, Shape, Sheet
from volumen.outline.making import itself, shown_children
from volumen.outline.silhouettes import silhouette
from volumen.picture.bounds import items_box
from volumen.picture.instructions import FillPath, Item, StrokePath
from volumen.shading.lamp import Lamp

CARRIES = 0.15  # the share of a sheet that must lie on another one to be carried by it alone
_SIDE = 256  # cells along the longer side of the map on which sheets are laid
GROUND = 0
_masks: Cache[tuple[Mask | None, Box | None]] = Cache("sheets on the map of heights", 5000)


class Falls(NamedTuple):
    """The numbers of sheets (n,) that the shadows of one can fall on, and how far beneath it they lie (n,)."""

    receivers: NDArray[np.intp]
    depths: Floats


@dataclass(slots=True)
class Standing:
    """A sheet, or a lifted group: where it stands. ``holder`` is the number of the sheet that holds it, -1 outside of
    all, ``parent`` the id of the node it is a child of, ``lamp`` one of its own or of what it is in; ``group`` says that
    it throws shadows, but that its children catch them."""

    node: Node
    world: Affine
    parent: int
    holder: int
    lift: float
    lamp: Lamp | None
    unlit: bool
    group: bool = False
    floor: float = 0.0
    height: float = 0.0


@dataclass(slots=True)
class Heights:
    """The sheets back to front, the ground first; the ``boxes`` of their silhouettes; a box (n, 4) on the sheet of what
    is ``seen`` of each (not a number where nothing is); and the shadows that can fall."""

    standing: list[Standing | None] = field(default_factory=lambda: [None])
    seen: Floats = field(default_factory=lambda: np.zeros((0, 4)))
    boxes: list[Box | None] = field(default_factory=list)
    falls: dict[int, Falls] = field(default_factory=dict)  # by the number of what throws them
    throws: frozenset[int] = frozenset()  # the ids of all whose shadows are among these

    def of(self, node_id: int) -> Standing | None:
        """Where an object stands; None for what is no sheet of its own."""
        return next((s for s in self.standing if s is not None and s.node.id == node_id), None)


def casts(node: Node) -> tuple[CastShadow, ...]:
    """The shadows of a node that fall by its height: all but those that lie on the ground or are squashed."""
    recipe = itself(node).recipe if not isinstance(node, Image) else ()
    return tuple(i for i in recipe if isinstance(i, CastShadow) and i.on and i.fall == "sheet" and i.squash == 1)


def heights_of(document: Document) -> Heights:
    """The heights of a document's sheets."""
    walk = _Laying(document.sheet)
    root = document.root
    walk.children(root, root.transform, -1, 0.0, None, False)
    return walk.finished()


def is_lifted(node: Node) -> bool:
    """Whether a node stands on its own: lifted, or with a shadow to throw."""
    return node.lift != 0 or any(isinstance(i, CastShadow) and i.on for i in node.recipe)


_lifted_inside: Cache[bool] = Cache("whether something lifted is in a node")


def _holds_lifted(node: Node) -> bool:
    """Whether something in a node is a sheet of its own."""
    if not node.children:
        return False
    hit = _lifted_inside.get(id(node))
    if hit is None:
        found = any(c.visible and (is_lifted(c) or _holds_lifted(c)) for c in shown_children(node))
        hit = _lifted_inside.put(id(node), node, found)
    return hit


class _Laying:
    """Lays sheets on a map of their numbers, back to front."""

    def __init__(self, sheet: Sheet) -> None:
        k = _SIDE / max(sheet.width, sheet.height, 1e-6)
        self.grid: Affine = (k, 0.0, 0.0, k, 0.0, 0.0)
        self.columns, self.rows = max(round(sheet.width * k), 1), max(round(sheet.height * k), 1)
        self.ids: NDArray[np.int32] = np.zeros((self.rows, self.columns), np.int32)
        self.heights = [0.0]
        self.boxes: list[Box | None] = [(0.0, 0.0, sheet.width, sheet.height)]
        self.masked = [True]
        self.under: list[dict[int, float]] = [{}]  # the shares of each sheet that lie on others
        self.found = Heights()
        self.inside: dict[int, Mask | None] = {}

    def children(
        self, parent: Node, world: Affine, holder: int, floor: float, lamp: Lamp | None, unlit: bool
    ) -> None:  # fmt: skip
        for node in shown_children(parent):
            if node.visible and not node.knockout and node.substance and not isinstance(node, Image):
                place = multiply(world, node.transform)
                dark = unlit or node.unlit
                self._node(node, place, parent.id, holder, floor, node.own_lamp or lamp, dark)

    def _node(
        self, node: Node, world: Affine, parent: int, holder: int, floor: float, lamp: Lamp | None, unlit: bool
    ) -> None:  # fmt: skip
        nested = _holds_lifted(node)
        whole = isinstance(node, Shape) or not nested
        standing = Standing(
            node, world, parent, holder, lift_on_sheet(node, world), lamp, unlit, not whole, floor
        )  # fmt: skip
        if not whole and not is_lifted(node):
            self.children(node, world, holder, floor, lamp, unlit)
            return
        number = self._lay(standing)
        if nested:
            inner = number if isinstance(node, Shape) else holder
            self.children(node, world, inner, standing.height, lamp, unlit)

    def _lay(self, standing: Standing) -> int:
        """Lay a sheet on those beneath it; its number."""
        number = len(self.heights)
        items = silhouette(standing.node, standing.world)
        mask, box = self._mask(items)
        window = mask.window if mask is not None else None
        under: dict[int, float] = {}
        cells = None
        if mask is not None and window is not None:
            cells = self._held(mask, standing.holder)
            counts = np.bincount(self.ids[window][cells])
            total = int(counts.sum())
            under = {int(k): int(counts[k]) / total for k in np.flatnonzero(counts)} if total else {}
        standing.height = max(self._carried(under), standing.floor) + max(standing.lift, 0.0)
        self.heights.append(standing.height)
        self.boxes.append(box)
        self.masked.append(cells is not None)
        self.under.append(under)
        self.found.standing.append(standing)
        if cells is not None and window is not None and not standing.group:
            self.ids[window][cells] = number
            if isinstance(standing.node, Shape) and standing.node.children and mask is not None:
                self.inside[number] = Mask(cells, mask.x, mask.y)
        return number

    def _mask(self, items: tuple[Item, ...]) -> tuple[Mask | None, Box | None]:
        key = (id(items), self.grid, self.columns, self.rows)
        hit = _masks.get(key)
        if hit is not None:
            return hit
        box = items_box(items)
        mask = mask_of(tuple(map(_part, items)), box, self.grid, self.columns, self.rows) if box is not None else None
        return _masks.put(key, items, (mask, box))

    def _held(self, mask: Mask, holder: int) -> NDArray[np.bool_]:
        """The cells of a mask that lie inside a holder."""
        inside = self.inside.get(holder)
        if inside is None:
            return mask.cells
        cells = np.zeros_like(mask.cells)
        t, l = max(mask.y, inside.y), max(mask.x, inside.x)
        b = min(mask.y + mask.cells.shape[0], inside.y + inside.cells.shape[0])
        r = min(mask.x + mask.cells.shape[1], inside.x + inside.cells.shape[1])
        if t < b and l < r:
            own = (slice(t - mask.y, b - mask.y), slice(l - mask.x, r - mask.x))
            other = (slice(t - inside.y, b - inside.y), slice(l - inside.x, r - inside.x))
            cells[own] = mask.cells[own] & inside.cells[other]
        return cells

    def _carried(self, under: dict[int, float]) -> float:
        """The mean height of the highest part of what lies under a sheet."""
        left, sum_ = CARRIES, 0.0
        for share, height in sorted(((s, self.heights[k]) for k, s in under.items()), key=lambda p: -p[1]):
            taken = min(share, left)
            sum_, left = sum_ + taken * height, left - taken
            if left <= 0:
                break
        return sum_ / (CARRIES - left) if left < CARRIES else 0.0

    def finished(self) -> Heights:
        """The heights with what is seen of each sheet and the shadows that can fall."""
        found, k = self.found, 1 / self.grid[0]
        found.boxes = self.boxes
        nothing = (np.nan,) * 4
        found.seen = np.array(
            [nothing if masked or box is None else box for masked, box in zip(self.masked, self.boxes, strict=True)]
        )
        for number, window in enumerate(find_objects(self.ids + 1)):
            if window is not None:  # a cell more on each side: what is seen of it may begin anywhere in one
                (t, b), (l, r) = ((w.start - 1, w.stop + 1) for w in window)
                found.seen[number] = (l * k, t * k, r * k, b * k)
        if (self.ids == GROUND).any():
            found.seen[GROUND] = self.boxes[GROUND] or nothing
        heights = np.array(self.heights)
        catches = np.array([s is None or not s.group for s in found.standing]) & ~np.isnan(found.seen[:, 0])
        for number, standing in enumerate(found.standing):
            if standing is not None and standing.lift > 0 and not standing.unlit and casts(standing.node):
                found.falls[number] = self._falls_of(number, standing, heights, catches)
        found.throws = frozenset(s.node.id for s in found.standing if s and s.lift > 0 and casts(s.node))
        return found

    def _falls_of(
        self, number: int, standing: Standing, heights: Floats, catches: NDArray[np.bool_]
    ) -> Falls:  # fmt: skip
        """The shadows that one sheet can throw: on what lies beneath it and behind it, in what holds it."""
        depths = standing.height - heights[:number]
        for receiver, share in self.under[number].items():
            if depths[receiver] < standing.lift:  # something high under a small part of it: grows with that part
                depths[receiver] += (standing.lift - depths[receiver]) * min(share / CARRIES, 1.0)
        receivers = np.flatnonzero(catches[:number] & (depths > 0))
        if standing.holder >= 0:
            receivers = np.array([r for r in receivers.tolist() if self._within(r, standing.holder)], np.intp)
        return Falls(receivers, depths[receivers])

    def _within(self, receiver: int, holder: int) -> bool:
        """Whether a sheet is a holder or lies in it."""
        while receiver != holder:
            standing = self.found.standing[receiver] if receiver >= 0 else None
            if standing is None:
                return False
            receiver = standing.holder
        return True


def _part(item: Item) -> Part:
    if isinstance(item, StrokePath):
        return Part(item.path, item.transform, item.width, item.cap, item.join, item.miter)
    assert isinstance(item, FillPath)  # silhouettes are made of these two
    return Part(item.path, item.transform)
