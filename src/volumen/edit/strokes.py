"""Drawn rows of points: smoothing them, and reading a width profile from pressure or speed."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.widths import Profile
from volumen.model.ingredients import Line, Thickness
from volumen.model.nodes import Document, WidthProfile
from volumen.model.tree import update_nodes, walk

_KNOTS = 14
_QUICK = 1800.0  # pixels a second that count as quick


def smoothed(points: Floats, reach: float, closed: bool) -> Floats:
    """A row (n, 2) with its tremor below ``reach`` units taken out; the ends stay where they are."""
    if reach <= 0 or len(points) < 4:
        return points
    from scipy.ndimage import gaussian_filter1d

    even = _evenly(points, max(reach / 2, 1e-3))
    mode = "wrap" if closed else "nearest"
    out = gaussian_filter1d(even, 2.0, axis=0, mode=mode)
    if not closed:
        out[0], out[-1] = points[0], points[-1]
    return np.asarray(out)


def _evenly(points: Floats, step: float) -> Floats:
    """The row with points ``step`` apart along it."""
    d = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    count = int(np.clip(np.ceil(d[-1] / step), 4, 4000))
    at = np.linspace(0, d[-1], count + 1)
    return np.stack([np.interp(at, d, points[:, k]) for k in (0, 1)], axis=1)


def pressure_profile(rows: Floats, by_pressure: bool, least: float, scale: float) -> Profile:
    """A width profile from rows (n, 3) of x, y and pressure 0..1, or seconds when there was no pen.

    ``scale`` is screen pixels to a unit. Quick means thin; ends taper as a nib does when it touches and leaves.
    """
    from scipy.ndimage import gaussian_filter1d

    d = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(rows[:, :2], axis=0).T))])
    if d[-1] <= 0:
        return ((0.0, 1.0, 1.0), (1.0, 1.0, 1.0))
    if by_pressure:
        weight = np.clip(rows[:, 2], 0, 1)
    else:
        seconds = np.maximum(np.diff(rows[:, 2], prepend=rows[0, 2]), 1e-3)
        speed = np.diff(d, prepend=0.0) * scale / seconds
        speed = gaussian_filter1d(speed, max(len(speed) / 30, 1.0))
        weight = 1 - np.clip(speed / _QUICK, 0, 1)
        share = d / d[-1]
        weight *= np.clip(np.minimum(share, 1 - share) / 0.08, 0.0, 1.0) ** 0.5
    weight = gaussian_filter1d(weight, max(len(weight) / 60, 0.5))
    knots = np.linspace(0, 1, _KNOTS)
    values = least + (1 - least) * np.interp(knots, d / d[-1], weight)
    return tuple((float(k), float(v), float(v)) for k, v in zip(knots.round(4), values.round(4), strict=True))


def save_profile(document: Document, name: str, profile: Profile) -> Document:
    """Keep a profile under a name; lines that used the old one of that name follow."""
    old = next((p.profile for p in document.profiles if p.name == name), None)
    rest = tuple(p for p in document.profiles if p.name != name)
    document = msgspec.structs.replace(document, profiles=(*rest, WidthProfile(name, profile)))
    if old is None:
        return document
    follow: Callable[[Line | Thickness], Line | Thickness] = lambda i: (  # noqa: E731
        msgspec.structs.replace(i, profile=profile) if i.profile == old else i
    )
    users = [n.id for n in walk(document.root) if any(isinstance(i, Line | Thickness) for i in n.recipe)]
    return update_nodes(
        document, users,
        lambda n: msgspec.structs.replace(
            n, recipe=tuple(follow(i) if isinstance(i, Line | Thickness) else i for i in n.recipe)
        ),
    )  # fmt: skip


def read_dashes(text: str) -> tuple[float, ...] | None:
    """Lengths from text; None if that is not what it holds."""
    try:
        found = tuple(float(w) for w in text.replace(",", " ").split())
    except ValueError:
        return None
    return found if all(0 <= d < 1e6 for d in found) and (not found or sum(found) > 0) else None
