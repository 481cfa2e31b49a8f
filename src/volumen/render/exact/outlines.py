"""Outlines as the paint library fills them: upright rectangles as such, the rest as paths.

The library moves the ends of a path's edges to quarters of a pixel in height. On most outlines nobody sees it; a rule
of 3.4 pixels would be 3.5 high where it is 3.4 wide. The edges of a rectangle it draws as they are.
"""

from __future__ import annotations

from typing import Any

from volumen.geometry.engine import to_engine
from volumen.geometry.path import Path

_RECTANGLE = 13  # points of four cubics


def fill(canvas: Any, path: Path, paint: Any) -> None:
    """Fill an outline in the canvas's coordinates."""
    box = _upright(path)
    if box is None:
        canvas.drawPath(to_engine(path), paint)
    else:
        canvas.drawRect(box, paint)


def _upright(path: Path) -> Any:
    """The rectangle that an outline is, if its four sides are straight, level and upright; else None."""
    made = to_engine(path)
    if made.countPoints() != _RECTANGLE or len(path.contours) != 1:
        return None
    points = path.contours[0].points
    (l, t), (r, b) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    sides = [points[i : i + 4] for i in range(0, 12, 3)]
    if not all((side == side[0]).all(axis=0).any() for side in sides):
        return None
    # Once round all four corners, not to and fro between two of them.
    if {tuple(side[0].tolist()) for side in sides} != {(l, t), (r, t), (r, b), (l, b)}:
        return None
    return made.getBounds()
