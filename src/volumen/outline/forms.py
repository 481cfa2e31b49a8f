"""Each kind of form as an outline."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from volumen.geometry.affine import Floats, Point, translation
from volumen.geometry.path import Contour, Path
from volumen.geometry.primitives import (
    arc_through,
    cloud,
    drop,
    ellipse,
    ellipse_part,
    line_between,
    polygon,
    rectangle,
    rounded_rectangle,
    spiral,
    star,
)
from volumen.geometry.rays import Burst, rays_within
from volumen.geometry.text import Glyph, Style, along, layout, outlines
from volumen.geometry.winding import nonzero
from volumen.model.nodes import (
    ArcForm,
    Boxed,
    CombinedForm,
    DropForm,
    EllipseForm,
    Form,
    PathForm,
    PathPoint,
    PathRun,
    PolygonForm,
    RaysForm,
    RectangleForm,
    SegmentForm,
    SpiralForm,
    StarForm,
    TextForm,
)


def source_outline(form: Form) -> Path:
    """The outline of a form; empty for a combined one, whose members make it."""
    if isinstance(form, PathForm):
        return Path(tuple(run_contour(r) for r in form.runs if r.points))
    if isinstance(form, SegmentForm):
        return line_between(form.start, form.end)
    if isinstance(form, ArcForm):
        return arc_through(form.start, form.through, form.end)
    if isinstance(form, SpiralForm):
        return spiral(*form.centre, form.outer, form.inner, form.turns, form.start)
    if isinstance(form, TextForm):
        return outlines(text_glyphs(form))
    if isinstance(form, CombinedForm):
        return Path()
    if isinstance(form, RaysForm):
        return rays_within(burst(form), None, None)
    return _in_box(form)


def burst(form: RaysForm) -> Burst:
    """How the rays of a form stand."""
    return Burst(
        form.kind == "radial", form.centre, form.angle, form.sweep, form.count, min(form.inner, form.reach), form.reach,
        form.narrow, form.wide, form.widest, form.start, form.end, form.seed,
    )  # fmt: skip


def _in_box(form: Boxed) -> Path:
    x, y, w, h = form.x, form.y, abs(form.width), abs(form.height)
    cx, cy, rx, ry = x + form.width / 2, y + form.height / 2, w / 2, h / 2
    if isinstance(form, EllipseForm):
        if abs(form.sweep) >= 360:
            return ellipse(cx, cy, rx, ry)
        return ellipse_part(cx, cy, rx, ry, form.start, form.sweep, form.part)
    if isinstance(form, RectangleForm):
        if form.radii is not None:
            return rounded_rectangle(x, y, w, h, form.radii)
        return rectangle(x, y, form.width, form.height, form.radius)
    if isinstance(form, PolygonForm):
        return polygon(cx, cy, rx, ry, form.sides, form.turn)
    if isinstance(form, StarForm):
        return star(cx, cy, rx, ry, form.points, form.inner, form.turn)
    if isinstance(form, DropForm):
        return drop(x, y, w, h, form.bulge, form.point)
    return cloud(x, y, w, h, form.count, form.depth)


def text_style(form: TextForm) -> Style:
    """How a text form sets its words."""
    return Style(
        form.family, form.style, form.size, form.spacing, form.leading, form.align, form.kerning, form.ligatures
    )


def text_glyphs(form: TextForm) -> list[Glyph]:
    """The glyphs of a text in place."""
    if form.path is not None:
        return along(form.text, text_style(form), source_outline(form.path), form.start, form.flip)
    move = translation(form.x, form.y)
    return [
        replace(g, place=(*g.place[:4], g.place[4] + move[4], g.place[5] + move[5]))
        for g in layout(form.text, text_style(form))
    ]


def run_contour(run: PathRun) -> Contour:
    """A run of points as a contour."""
    rows = [run.points[0].at]
    for a, b in zip(run.points, run.points[1:], strict=False):
        rows += [a.leave, b.arrive, b.at]
    if run.closed and len(run.points) > 1:
        rows += [run.points[-1].leave, run.points[0].arrive, run.points[0].at]
    return Contour(np.array(rows, dtype=np.float64), run.closed)


def path_form(path: Path) -> PathForm:
    """A path as editable points. Handles that run straight through a point make it smooth."""
    runs = []
    path = nonzero(path)  # as forms are filled
    for contour in path.contours:
        p = contour.points
        n = (len(p) - 1) // 3
        count = n if contour.closed else n + 1
        points = []
        for i in range(count):
            at = p[3 * i]
            arrive = p[3 * i - 1] if i > 0 else (p[3 * n - 1] if contour.closed and n else at)
            leave = p[3 * i + 1] if i < n else at
            points.append(
                PathPoint(_pair(at), _pair(arrive), _pair(leave), _is_smooth(_pair(at), _pair(arrive), _pair(leave)))
            )
        runs.append(PathRun(tuple(points), contour.closed))
    return PathForm(tuple(runs))


def _pair(p: Floats) -> Point:
    return (float(p[0]), float(p[1]))


def _is_smooth(at: Point, arrive: Point, leave: Point) -> bool:
    ax, ay, bx, by = at[0] - arrive[0], at[1] - arrive[1], leave[0] - at[0], leave[1] - at[1]
    la, lb = (ax * ax + ay * ay) ** 0.5, (bx * bx + by * by) ** 0.5
    return bool(la > 1e-9 and lb > 1e-9 and (ax * bx + ay * by) / (la * lb) > 0.9999)
