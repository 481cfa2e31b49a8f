"""Where a gradient's handles lie, and what dragging them makes of it. No drawing, no events."""

from __future__ import annotations

import math

import msgspec

from volumen.geometry.affine import Affine, Point, apply, apply_vector, invert, multiply
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Shape
from volumen.shading.paint import Conic, Linear, Radial

replace = msgspec.structs.replace
Geometric = Linear | Radial | Conic
GEOMETRIC = (Linear, Radial, Conic)
CONIC_REACH = 70.0  # pixels from the centre of a conic gradient to its handles


def active_gradient(shape: Shape | None, active: int | None) -> tuple[int, Geometric] | None:
    """The gradient that handles belong to: of the open card, else the topmost one of the shape."""
    if shape is None:
        return None
    order = list(range(len(shape.recipe) - 1, -1, -1))
    if active is not None and active < len(shape.recipe):
        order.insert(0, active)
    for i in order:
        ingredient = shape.recipe[i]
        if isinstance(ingredient, Fill | Line) and ingredient.on and isinstance(ingredient.paint, GEOMETRIC):
            return i, ingredient.paint
    return None


def ends(gradient: Geometric, m: Affine) -> tuple[Point, Point]:
    """Where the gradient starts and ends; ``m`` maps the shape to the canvas."""
    if isinstance(gradient, Linear):
        return apply(m, gradient.start), apply(m, gradient.end)
    if isinstance(gradient, Radial):
        m = multiply(m, gradient.transform)
        cx, cy = gradient.centre
        return apply(m, gradient.focus), apply(m, (cx + gradient.radius, cy))
    return apply(m, gradient.centre), _round_conic(gradient, m, 0.0)


def side_point(gradient: Radial, m: Affine) -> Point:
    """The other radius of a radial gradient: its ellipse is as wide there."""
    cx, cy = gradient.centre
    return apply(multiply(m, gradient.transform), (cx, cy + gradient.radius))


def _round_conic(gradient: Conic, m: Affine, t: float) -> Point:
    angle = math.radians(gradient.turn + 360 * t)
    x, y = apply_vector(m, (math.cos(angle), math.sin(angle)))
    size = math.hypot(x, y) or 1.0
    cx, cy = apply(m, gradient.centre)
    return (cx + x / size * CONIC_REACH, cy + y / size * CONIC_REACH)


def at_parameter(gradient: Geometric, m: Affine, t: float) -> Point:
    """Where a stop at ``t`` is shown."""
    if isinstance(gradient, Conic):
        return _round_conic(gradient, m, t)
    a, b = ends(gradient, m)
    return (a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t)


def normal_at(gradient: Geometric, m: Affine, t: float) -> Point:
    """The direction in which a stop's drop hangs."""
    if isinstance(gradient, Conic):
        (cx, cy), (x, y) = apply(m, gradient.centre), _round_conic(gradient, m, t)
        dx, dy = x - cx, y - cy
    else:
        a, b = ends(gradient, m)
        dx, dy = -(b[1] - a[1]), b[0] - a[0]
    n = math.hypot(dx, dy) or 1.0
    return (dx / n, dy / n)


def parameter_near(gradient: Geometric, m: Affine, p: Point) -> tuple[float, float]:
    """The parameter whose place is nearest to a point on the canvas, and how far away that is."""
    if isinstance(gradient, Conic):
        inverse = invert(m)
        if inverse is None:
            return 0.0, math.inf
        x, y = apply(inverse, p)
        angle = math.degrees(math.atan2(y - gradient.centre[1], x - gradient.centre[0]))
        t = ((angle - gradient.turn) % 360) / 360
        return t, math.dist(p, _round_conic(gradient, m, t))
    a, b = ends(gradient, m)
    dx, dy = b[0] - a[0], b[1] - a[1]
    t = ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy or 1e-9)
    return t, math.dist(p, (a[0] + dx * t, a[1] + dy * t))


def slid(gradient: Geometric, kind: str, i: int, t: float) -> Geometric:
    """A stop or midpoint moved to a parameter. Stops stay between their neighbours, so the order never changes."""
    stops = list(gradient.stops)
    t = min(max(t, 0.0), 1.0)
    if kind == "stop":
        low = stops[i - 1].at if i else 0.0
        high = stops[i + 1].at if i + 1 < len(stops) else 1.0
        stops[i] = replace(stops[i], at=min(max(t, low), high))
    else:
        span = stops[i + 1].at - stops[i].at
        stops[i] = replace(stops[i], middle=min(max((t - stops[i].at) / max(span, 1e-6), 0.02), 0.98))
    return replace(gradient, stops=tuple(stops))


def dragged(gradient: Geometric, kind: str, to: Point, stepped: bool) -> Geometric:
    """A handle put elsewhere, in the shape's coordinates; ``stepped`` turns by 15 degrees."""
    if isinstance(gradient, Linear):
        fixed = gradient.end if kind == "start" else gradient.start
        return replace(gradient, **{kind: on_steps(fixed, to) if stepped else to})
    if isinstance(gradient, Conic):
        if kind == "centre":
            return replace(gradient, centre=to)
        x, y = on_steps(gradient.centre, to) if stepped else to
        return replace(gradient, turn=math.degrees(math.atan2(y - gradient.centre[1], x - gradient.centre[0])))
    return _dragged_radial(gradient, kind, to, stepped)


def _dragged_radial(gradient: Radial, kind: str, to: Point, stepped: bool) -> Radial:
    """The end turns the ellipse and sets one radius, the side sets the other."""
    inverse = invert(gradient.transform)
    if inverse is None:
        return gradient
    if kind == "focus":
        return replace(gradient, focus=apply(inverse, to))
    if kind == "centre":
        (x, y), (cx, cy) = apply(inverse, to), gradient.centre
        return replace(gradient, centre=(x, y), focus=(gradient.focus[0] + x - cx, gradient.focus[1] + y - cy))
    centre = apply(gradient.transform, gradient.centre)
    to = on_steps(centre, to) if stepped else to
    r = max(gradient.radius, 1e-9)
    u = apply_vector(gradient.transform, (r, 0.0))
    v = apply_vector(gradient.transform, (0.0, r))
    arm = (to[0] - centre[0], to[1] - centre[1])
    size = math.hypot(*arm)
    if size < 1e-6:
        return gradient
    if kind == "end":
        turn = math.atan2(arm[1], arm[0]) - math.atan2(u[1], u[0])
        k = size / (math.hypot(*u) or 1.0)
        c, s = math.cos(turn) * k, math.sin(turn) * k
        u, v = arm, (v[0] * c - v[1] * s, v[0] * s + v[1] * c)
    else:
        length = math.hypot(*u) or 1.0
        across = (-u[1] / length, u[0] / length)
        reach = arm[0] * across[0] + arm[1] * across[1]
        reach = reach if abs(reach) > 1e-3 else 1e-3
        v = (across[0] * reach, across[1] * reach)
    a, b, c, d = u[0] / r, u[1] / r, v[0] / r, v[1] / r
    cx, cy = gradient.centre
    place = (a, b, c, d, centre[0] - a * cx - c * cy, centre[1] - b * cx - d * cy)
    return replace(gradient, transform=place)


def on_steps(fixed: Point, at: Point) -> Point:
    """``at`` turned about ``fixed`` to the nearest 15 degrees."""
    size = math.dist(fixed, at)
    angle = math.radians(round(math.degrees(math.atan2(at[1] - fixed[1], at[0] - fixed[0])) / 15) * 15)
    return (fixed[0] + size * math.cos(angle), fixed[1] + size * math.sin(angle))
