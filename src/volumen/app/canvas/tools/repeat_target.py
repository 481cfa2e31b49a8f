"""The repeat that is in hand, its grips on the canvas, and what dragging one of them makes of it."""

from __future__ import annotations

import math
from typing import NamedTuple

import msgspec
import numpy as np

from volumen.app.canvas.sheet import ToolSheet
from volumen.edit import repeats
from volumen.geometry.affine import Affine, Point, apply, apply_vector, multiply
from volumen.geometry.path import Box, Path
from volumen.geometry.spine import Spine
from volumen.model.ingredients import Halves
from volumen.model.nodes import Group, Image, Shape
from volumen.model.repeats import REPEATS, Course, Grid, Mirror, Repeat, Ring
from volumen.model.tree import world_of
from volumen.outline.copies import copies_of
from volumen.outline.courses import spine_of
from volumen.outline.making import shown_before
from volumen.outline.outlines import outline_before
from volumen.outline.repeats import box_of, guide_of

replace = msgspec.structs.replace
_AXIS = 90.0  # pixels from a mirror's centre to the grip that turns it


class Target(NamedTuple):
    """The repeat in hand: its group (or the shape of a mirrored half), where in the recipe it is, the box of what it
    repeats, its place on the canvas, the outline it strews in or runs along."""

    node: Group | Shape
    rank: int
    repeat: Repeat | Halves
    box: Box
    place: Affine
    guide: Path

    @property
    def middle(self) -> Point:
        return (self.box[0] + self.box[2]) / 2, (self.box[1] + self.box[3]) / 2

    @property
    def spine(self) -> Spine | None:
        """The path that it runs along."""
        return spine_of(self.guide, self.repeat, self.box) if isinstance(self.repeat, Course) else None


def target_of(sheet: ToolSheet) -> Target | None:
    """The last repeat of the one selected object."""
    node = sheet.session.first
    if node is None or len(sheet.session.selection) != 1:
        return None
    found = [(k, i) for k, i in enumerate(node.recipe) if isinstance(i, (*REPEATS, Halves)) and i.on]
    if not found or isinstance(node, Image):
        return None
    rank, i = found[-1]
    assert isinstance(i, (*REPEATS, Halves))
    if isinstance(node, Shape):
        box = outline_before(node, rank).bounds()
    else:
        caps = i.caps if isinstance(i, Course) else ()
        box = box_of(tuple(n for n in shown_before(node, rank) if n.id not in caps))
    if box is None:
        return None
    place = multiply(sheet.viewport.affine(), world_of(sheet.session.document, node.id))
    guide = guide_of(node) if isinstance(node, Group) else Path()
    return Target(node, rank, i, box, place, guide)


def grips_of(t: Target) -> dict[str, Point]:
    """The grips by name, on the canvas."""
    i = t.repeat
    if isinstance(i, Ring):
        second, centre = _copy(t, 1), {"centre": apply(t.place, i.centre)}
        return {"second": second, **centre} if second else centre
    if isinstance(i, Mirror | Halves):
        (x, y), turn = apply(t.place, i.centre), math.radians(i.angle)
        dx, dy = apply_vector(t.place, (math.cos(turn), math.sin(turn)))
        far = _AXIS / (math.hypot(dx, dy) or 1.0)
        return {"axis": (x + dx * far, y + dy * far), "centre": (x, y)}
    if isinstance(i, Grid):
        across, down = _copy(t, i.across - 1 if i.by == "fit" else 1), _copy(t, i.across)
        if i.by == "fit":
            down = _copy(t, i.across * (i.down - 1))
        grips = {"across": across} if across and i.across > 1 else {}
        return {**grips, "down": down} if down and i.down > 1 else grips
    if isinstance(i, Course):
        spine = t.spine
        if spine is None:
            return {}
        ((at, _),) = arrows(t, spine, (0.5,))
        first = spine.frames(np.array([i.start * spine.total]))
        x, y = (first.at + first.across * i.across)[0].tolist()
        return {"flip": at, "start": apply(t.place, (x, y))}
    return {}


def _copy(t: Target, number: int) -> Point | None:
    """The middle of a copy, on the canvas."""
    if isinstance(t.repeat, Halves | Course):
        return None
    whole = replace(t.repeat, gone=())
    found = next((c for c in copies_of(whole, t.box, t.guide) if c.number == number), None)
    return apply(multiply(t.place, found.place), t.middle) if found is not None else None


def arrows(t: Target, spine: Spine, shares: tuple[float, ...]) -> list[tuple[Point, Point]]:
    """Places along a course, and unit directions there, on the canvas."""
    f = spine.frames(np.array(shares) * spine.total)
    out = []
    for at, along in zip(f.at.tolist(), f.along.tolist(), strict=True):
        dx, dy = apply_vector(t.place, (along[0], along[1]))
        size = math.hypot(dx, dy) or 1.0
        out.append((apply(t.place, (at[0], at[1])), (dx / size, dy / size)))
    return out


def dragged(t: Target, grip: str, at: Point, stepped: bool) -> Repeat | Halves:
    """The repeat with one of its grips at a place in the group's coordinates; ``stepped`` turns by 15 degrees."""
    i = t.repeat
    if grip == "centre" and isinstance(i, Ring | Mirror | Halves):
        return replace(i, centre=at)
    if isinstance(i, Mirror | Halves):
        angle = _angle(i.centre, at)
        return replace(i, angle=round(angle / 15) * 15.0 if stepped else angle)
    if isinstance(i, Ring):
        return repeats.turned_to(i, (_angle(i.centre, at) - _angle(i.centre, t.middle)) % 360)
    if isinstance(i, Course):
        spine = t.spine if grip == "start" else None
        return i if spine is None else repeats.begun_at(i, spine, at)
    return repeats.spread_to(i, t.box, grip == "down", at, stepped) if isinstance(i, Grid) else i


def _angle(a: Point, b: Point) -> float:
    return math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
