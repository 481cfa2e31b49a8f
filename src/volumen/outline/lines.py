"""Lines of a recipe as drawing instructions.

A plain line is a stroke. One that varies in width, lies inside or outside its outline, or stands in a place
that squeezes it is drawn as its filled outline, so that every export shows the same even line.
"""

from __future__ import annotations

from volumen.caching import Cache
from volumen.geometry.affine import Affine, invert, mean_scale, uneven
from volumen.geometry.boolean import boolean, closed
from volumen.geometry.dashes import dashed
from volumen.geometry.engine import PathOpError, in_cubics, outline_of_line
from volumen.geometry.path import Path
from volumen.geometry.pieces import all_segments, drawn_by_lot, nearest_segment, without
from volumen.geometry.widths import profiled_outline
from volumen.model.ingredients import Body, Fill, Line
from volumen.model.nodes import Node, Shape
from volumen.picture.instructions import FillPath, StrokePath
from volumen.shading.paint import Paint, is_field

_outlines: Cache[Path] = Cache("outlines of lines")
_dashes: Cache[Path] = Cache("dashed lines")


def line_item(
    path: Path, line: Line, world: Affine, paint: Paint | None = None, grow: float = 0.0
) -> FillPath | StrokePath:
    """A line along a path. ``paint`` replaces the line's own; ``grow`` widens it to each side."""
    colour = line.paint if paint is None else paint
    if line.profile is None and line.side == "centre" and uneven(world) is None and not is_field(colour):
        width = line.width + 2 * grow
        along = _along(path, line)
        return StrokePath(along, world, colour, width, line.cap, line.join, line.miter, line.opacity, line.blend)
    band = line_outline(path, line, world, grow)
    return FillPath(band, world, colour, line.opacity, line.blend, path, line.width + 2 * grow)


def _along(path: Path, line: Line) -> Path:
    """What of a path a line is drawn along."""
    if not line.dashes and not is_broken(line):
        return path
    key = (id(path), line.dashes, line.dash_start, line.broken, line.seed, line.omitted)
    hit = _dashes.get(key)
    return hit if hit is not None else _dashes.put(key, path, _drawn(path, line, segments_left_out(path, line), 1.0))


def _drawn(path: Path, line: Line, gone: set[int], scale: float) -> Path:
    """What of a path is drawn: all segments but those that are ``gone``, in dashes; the line's lengths are times
    ``scale``."""
    left = without(path, gone)
    if not line.dashes:
        return left
    found = dashed(left, tuple(d * scale for d in line.dashes), line.dash_start * scale)
    lost = drawn_by_lot(range(len(found.contours)), line.broken, line.seed)
    return Path(tuple(c for k, c in enumerate(found.contours) if k not in lost)) if lost else found


def is_broken(line: Line) -> bool:
    """Whether pieces of a line are left out, beside the gaps of its dashes."""
    return line.broken > 0 or bool(line.omitted)


def segments_left_out(path: Path, line: Line) -> set[int]:
    """The numbers of the segments that a line leaves out: by hand, and by lot where it has no dashes to leave out."""
    if not is_broken(line):
        return set()
    segments = all_segments(path)
    gone = {nearest_segment(segments, place)[0] for place in line.omitted} - {-1}
    return gone if line.dashes else gone | drawn_by_lot(range(len(segments)), line.broken, line.seed)


def line_outline(path: Path, line: Line, world: Affine, grow: float = 0.0) -> Path:
    """The filled outline of a line, in the coordinates of ``path``."""
    squeeze = uneven(world)
    key = (id(path), line.width, line.cap, line.join, line.miter, line.side, line.dashes, line.dash_start,
           line.broken, line.seed, line.omitted, line.profile, squeeze, grow)  # fmt: skip
    hit = _outlines.get(key)
    if hit is not None:
        return hit
    inverse = invert(squeeze) if squeeze is not None else None
    gone = segments_left_out(path, line)
    if squeeze is None or inverse is None:
        made = in_cubics(_outline(path, line, gone, 1.0, grow))
    else:
        made = _outline(path.transformed(squeeze), line, gone, mean_scale(squeeze), grow).transformed(inverse)
    return _outlines.put(key, path, made)


def _outline(path: Path, line: Line, gone: set[int], scale: float, grow: float) -> Path:
    width = (line.width + 2 * grow) * scale
    sided = line.side != "centre" and any(c.closed for c in path.contours)
    reach = 2 * line.width * scale + 2 * grow * scale if sided else width
    along = _drawn(path, line, gone, scale)
    if line.profile is not None:
        band = profiled_outline(along, reach, line.profile, line.cap)
    else:
        band = outline_of_line(along, reach, line.cap, line.join, line.miter)
    if not sided:
        return band
    try:
        return boolean(band, closed(path), "intersect" if line.side == "inside" else "subtract")
    except PathOpError:
        return band


def line_of(node: Node, path: Path, body: Body) -> Line | None:
    """The line that a body of a node is laid on: the widest of an open path that is not filled; of any path where a
    tube goes along it."""
    lines = [i for i in node.recipe if isinstance(i, Line) and i.on and i.width > 0]
    if not lines or not isinstance(node, Shape):
        return None
    if not (body.along and body.kind == "tube"):
        if any(isinstance(i, Fill) and i.on for i in node.recipe):
            return None  # before the contours are asked for, which may not be made yet
        if any(c.closed for c in path.contours):
            return None
    return max(lines, key=lambda i: i.width)


def is_filled(node: Node, path: Path) -> bool:
    """Whether something of a node's recipe covers the inside of its outline: a fill, or a body that lies on no line."""
    on = [i for i in node.recipe if i.on]
    if any(isinstance(i, Fill) for i in on):
        return True
    return any(isinstance(i, Body) and line_of(node, path, i) is None for i in on)
