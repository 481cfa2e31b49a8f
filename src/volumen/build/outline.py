"""From a node's form to its outline, in the node's own coordinates; and where nodes lie on the sheet."""

from __future__ import annotations

from collections import OrderedDict

import numpy as np

from volumen.geometry.affine import IDENTITY, Affine, multiply
from volumen.geometry.path import Box, Contour, Path, transform_box, union_box
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.nodes import EllipseForm, Form, Node, PathRun, RectangleForm, Shape

_CACHE_SIZE = 50_000
# Keyed by identity; the form itself is kept in the value, so an id cannot be reused while it is listed.
_outlines: OrderedDict[int, tuple[Form, Path]] = OrderedDict()


def outline(form: Form) -> Path:
    """The outline of a form. The same form object gives the same path object."""
    hit = _outlines.get(id(form))
    if hit is not None:
        return hit[1]
    path = _make(form)
    _outlines[id(form)] = (form, path)
    if len(_outlines) > _CACHE_SIZE:
        _outlines.popitem(last=False)
    return path


def _make(form: Form) -> Path:
    if isinstance(form, EllipseForm):
        rx, ry = form.width / 2, form.height / 2
        return ellipse(form.x + rx, form.y + ry, abs(rx), abs(ry))
    if isinstance(form, RectangleForm):
        return rectangle(form.x, form.y, form.width, form.height, form.radius)
    return Path(tuple(_run_contour(r) for r in form.runs if r.points))


def _run_contour(run: PathRun) -> Contour:
    rows = [run.points[0].at]
    for a, b in zip(run.points, run.points[1:], strict=False):
        rows += [a.leave, b.arrive, b.at]
    if run.closed and len(run.points) > 1:
        rows += [run.points[-1].leave, run.points[0].arrive, run.points[0].at]
    return Contour(np.array(rows, dtype=np.float64), run.closed)


def node_box(node: Node, parent: Affine = IDENTITY) -> Box | None:
    """The box of a node's outlines (without effects) on the sheet; ``parent`` maps its parent to the sheet.

    Tight for shapes that are not turned, a little generous for others.
    """
    world = multiply(parent, node.transform)
    if isinstance(node, Shape):
        path = outline(node.form)
        turned = abs(world[1]) > 1e-12 or abs(world[2]) > 1e-12
        box = path.transformed(world).bounds() if turned else path.bounds()
        return box if turned or box is None else transform_box(box, world)
    return union_box(node_box(c, world) for c in node.children)
