"""Widths: the profile of a line, dragged on the canvas."""

from __future__ import annotations

import math

import msgspec
import numpy as np
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, diamond, dot, halo_line
from volumen.app.canvas.sheet import Pointer
from volumen.app.canvas.tools.base import GripTool, near
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.geometry.affine import Affine, Point, apply, invert, mean_scale, multiply
from volumen.geometry.curve import nearest, ruler
from volumen.geometry.path import Path
from volumen.geometry.widths import EVEN, Profile, widths_at
from volumen.model.ingredients import Line, Thickness
from volumen.model.nodes import Document, Shape
from volumen.model.tree import find, world_of
from volumen.outline.outlines import outline_before

replace = msgspec.structs.replace


class WidthsTool(GripTool):
    """Drags the width profile of a line."""

    name = "widths"
    icon = "chart-spline"
    keys = "X"
    toolbox = (Shown(Stage.CARVE, 50), Shown(Stage.COLOUR, 120, folded=True))
    hint = "Drag a width's ends for thicker or thinner, <b>Alt</b> for one side; its middle moves it. Click adds one, double-click removes."

    def target(self) -> tuple[Shape, int, Line | Thickness, Path, Affine] | None:
        """The selected shape, its line (or thickness) and where it is, the spine, its place on the canvas."""
        shape = self.session.only_shape
        if shape is None:
            return None
        at = next((k for k, i in enumerate(shape.recipe) if isinstance(i, Line | Thickness) and i.on), None)
        if at is None:
            return None
        line = shape.recipe[at]
        assert isinstance(line, Line | Thickness)
        world = world_of(self.session.document, shape.id)
        path = outline_before(shape, at if isinstance(line, Thickness) else None, world)
        contours = tuple(c for c in path.contours if len(c.points) > 3)[:1]
        m = multiply(self.sheet.viewport.affine(), world)
        return (shape, at, line, Path(contours), m) if contours else None

    def _marks(self, line: Line | Thickness, spine: Path, m: Affine) -> list[tuple[Point, Point, Point]]:
        """Left end, middle and right end of each width on the canvas."""
        profile = line.profile or EVEN
        measure = ruler(spine.contours[0])
        points, tangents = measure.at(np.array([p[0] for p in profile]) * measure.total)
        out = []
        for (_, left, right), p, t in zip(profile, points, tangents, strict=True):
            n = np.array([t[1], -t[0]]) * line.width / 2
            a, b = p + n * left, p - n * right
            out.append(tuple(apply(m, (float(q[0]), float(q[1]))) for q in (a, p, b)))
        return out  # type: ignore[return-value]

    slack = 6.0

    def grip_at(self, p: Pointer) -> tuple[int, str] | None:
        found = self.target()
        if found is None:
            return None
        for k, (a, c, b) in enumerate(self._marks(*found[2:])):
            for part, q in (("left", a), ("right", b), ("middle", c)):
                if near(q, p.at, 7):
                    return k, part
        return None

    def make_grip(self, p: Pointer) -> tuple[int, str] | None:
        """A new width where the line itself is pressed."""
        found = self.target()
        if found is None:
            return None
        shape, at, line, spine, m = found
        inverse = invert(m)
        close = nearest(spine, apply(inverse, p.at)) if inverse else None
        if close is None or not near(apply(m, close.at), p.at, 7):
            return None
        measure = ruler(spine.contours[0])
        share = float(np.interp(close.place, measure.places, measure.distances)) / max(measure.total, 1e-9)
        profile = line.profile or EVEN
        left, right = widths_at(profile, np.array([share]))
        rows = tuple(sorted((*profile, (round(share, 4), float(left[0]), float(right[0])))))
        self._set(self.session.document, shape, at, rows)
        self.session.commit("add width")
        return next(k for k, r in enumerate(rows) if abs(r[0] - round(share, 4)) < 1e-9), "middle"

    def move(self, p: Pointer) -> None:
        found = self.target()
        if found is None or self.grabbed is None or self.before is None:
            return
        shape, at, line, spine, m = found
        k, part = self.grabbed
        profile = list(line.profile or EVEN)
        inverse = invert(m)
        if inverse is None or k >= len(profile):
            return
        local = apply(inverse, p.at)
        measure = ruler(spine.contours[0])
        if part == "middle":
            close = nearest(spine, local)
            if close is None or k in (0, len(profile) - 1):
                return
            share = float(np.interp(close.place, measure.places, measure.distances)) / max(measure.total, 1e-9)
            low, high = profile[k - 1][0] + 0.005, profile[k + 1][0] - 0.005
            profile[k] = (min(max(round(share, 4), low), high), *profile[k][1:])
            self.readout = f"at {share * 100:.0f} %"
        else:
            point, _ = measure.at(np.array([profile[k][0] * measure.total]))
            wide = math.dist(local, tuple(point[0])) / max(line.width / 2, 1e-9)
            left = wide if part == "left" or not p.alt else profile[k][1]
            right = wide if part == "right" or not p.alt else profile[k][2]
            profile[k] = (profile[k][0], round(left, 4), round(right, 4))
            on_sheet = mean_scale(world_of(self.session.document, self.session.selection[0]))
            self.readout = f"width {(left + right) / 2 * line.width * on_sheet:.1f}"
        base = find(self.before, shape.id)
        if isinstance(base, Shape):
            self._set(self.before, base, at, tuple(profile))

    def _set(self, document: Document, shape: Shape, at: int, profile: Profile) -> None:
        line = shape.recipe[at]
        assert isinstance(line, Line | Thickness)
        recipe = (*shape.recipe[:at], replace(line, profile=profile), *shape.recipe[at + 1 :])
        self.session.preview(objects.set_fields(document, [shape.id], recipe=recipe))

    def release(self, p: Pointer) -> None:
        self.let_go("change width")

    def double(self, p: Pointer) -> None:
        found = self.target()
        if found is None:
            return
        shape, at, line, spine, m = found
        profile = line.profile or EVEN
        for k, marks in enumerate(self._marks(line, spine, m)):
            if any(near(q, p.at, 7) for q in marks) and 0 < k < len(profile) - 1:
                self._set(self.session.document, shape, at, profile[:k] + profile[k + 1 :])
                self.session.commit("remove width")
                return

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        found = self.target()
        if found is None:
            return
        _, _, line, spine, m = found
        for k, (a, c, b) in enumerate(self._marks(line, spine, m)):
            halo_line(painter, a, b)
            held = self.grabbed is not None and self.grabbed[0] == k
            dot(painter, a, AMBER if held else HALO, 3.5)
            dot(painter, b, AMBER if held else HALO, 3.5)
            diamond(painter, c, AMBER if held else HALO, 4)
        self.tell(painter, self.readout)
