"""How far each drawing instruction can reach on the sheet."""

from __future__ import annotations

from collections.abc import Iterable

from volumen.caching import Cache
from volumen.geometry.affine import Affine
from volumen.geometry.path import Box, grow_box, transform_box, union_box
from volumen.picture.instructions import Bitmap, FillPath, FillUncovered, Item, Layer, Soft, StrokePath

# A Gaussian beyond three standard deviations changes no 8-bit value of a soft edge by more than one.
REACH = 3.0
_boxes: Cache[Box | None] = Cache("boxes of what items hold", 5000)


def item_box(item: Item) -> Box | None:
    """The box in sheet units that holds everything the item paints; None if it paints nothing."""
    if isinstance(item, FillPath | StrokePath):
        box = item.path.hull()
        if box is None:
            return None
        if isinstance(item, StrokePath):
            sharp = item.miter if item.join == "miter" else 1.5
            box = grow_box(box, item.width / 2 * max(sharp, 1.5))
        return transform_box(box, item.transform)
    if isinstance(item, Bitmap):
        return transform_box((0.0, 0.0, item.width, item.height), item.transform)
    box = _held_box(item.items)
    if box is None:
        return None
    if isinstance(item, Soft):
        dx, dy = item.offset
        box = grow_box((box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy), REACH * item.sigma)
    elif item.blur > 0:
        box = grow_box(box, REACH * item.blur)  # a feathered layer only loses
    if item.clip is not None:
        held = item.clip.path.hull()
        if held is None:
            return None
        h = transform_box(held, item.clip.transform)
        box = (max(box[0], h[0]), max(box[1], h[1]), min(box[2], h[2]), min(box[3], h[3]))
        if box[0] >= box[2] or box[1] >= box[3]:
            return None
    return box


def _held_box(items: tuple[Item, ...]) -> Box | None:
    """The box of what an item holds, which stays the same from frame to frame while a shadow moves."""
    hit = _boxes.get(id(items))
    return hit if hit is not None else _boxes.put(id(items), items, items_box(items))


def items_box(items: Iterable[Item]) -> Box | None:
    """The box around all that items paint."""
    boxes: list[Box | None] = []
    known: set[tuple[int, Affine]] = set()  # outlines in their places: what lies inside one adds nothing
    for item in items:
        held = item if isinstance(item, FillPath) else item.clip if isinstance(item, Soft | Layer) else None
        if held is not None:
            outline = held.outline if isinstance(held, FillUncovered) else held.path
            where = (id(outline), held.transform)
            if where in known:
                continue
            if held is item and outline is held.path:
                known.add(where)
        boxes.append(item_box(item))
    return union_box(boxes)
