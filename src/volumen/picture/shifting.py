"""Drawing instructions pushed along the sheet: what moved as it is needs no building."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.geometry.affine import Affine
from volumen.picture.instructions import Chunk, Clip, Item, Layer, Soft


def moved_chunk(chunk: Chunk, dx: float, dy: float) -> Chunk:
    """A chunk some sheet units to the right and down."""
    l, t, r, b = chunk.box
    return Chunk(chunk.node, tuple(_moved(i, dx, dy) for i in chunk.items), (l + dx, t + dy, r + dx, b + dy))


def _moved(item: Item, dx: float, dy: float) -> Item:
    if isinstance(item, Layer | Soft):
        clip = item.clip and Clip(item.clip.path, _pushed(item.clip.transform, dx, dy))
        return replace(item, items=tuple(_moved(i, dx, dy) for i in item.items), clip=clip)
    return replace(item, transform=_pushed(item.transform, dx, dy))


def _pushed(m: Affine, dx: float, dy: float) -> Affine:
    return (m[0], m[1], m[2], m[3], m[4] + dx, m[5] + dy)
