"""A gradient mesh as arrays: where its patches lie and how colour runs over them.

Patches are tensor products of cubics. Their inner points follow from the four edges as in a Coons patch, so a
line of the mesh can be split anywhere and the surface stays exactly what it was. Colour is a bicubic Hermite
surface in OKLab, premultiplied by alpha: slopes at a point are taken per unit of length along the mesh's lines
and scaled by the handles of each patch (the chain rule), which makes colour run on smoothly from patch to
patch even where their sizes differ.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from volumen.caching import by_value
from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, apply_points

BEFORE_U, AFTER_U, BEFORE_V, AFTER_V = range(4)
CORNERS = ((0, 0), (0, 1), (1, 0), (1, 1))  # (v, u)
MOST_PATCHES = 10_000


class MeshError(ValueError):
    """A mesh that cannot be: its message says why."""


@dataclass(slots=True)
class Mesh:
    """Points of a mesh: ``at`` (rows, columns, 2), ``handles`` (rows, columns, 4, 2) absolute, ``mixing``
    (rows, columns, 4) premultiplied OKLab and alpha, ``crease`` (rows, columns), ``slopes`` (rows, columns, 4, 3, 4)
    per unit of length along rows, along columns and of one along the other, with NaN where they follow from the
    neighbours. A point has its own slopes in each of the four patches around it: ``CORNERS[k]`` says which corner of
    the patch it is."""

    at: Floats
    handles: Floats
    mixing: Floats
    crease: NDArray[np.bool_]
    slopes: Floats
    ring: bool

    def for_keeping(self) -> Mesh:
        """The same mesh, where no slopes are held by less than half the memory; its slopes cannot be written to."""
        if np.isnan(self.slopes).all():
            self.slopes = np.broadcast_to(np.nan, self.slopes.shape)
        return self

    @property
    def columns(self) -> int:
        """Columns of patches."""
        return int(self.at.shape[1]) - (0 if self.ring else 1)

    @property
    def rows(self) -> int:
        """Rows of patches."""
        return int(self.at.shape[0]) - 1

    def copy(self) -> Mesh:
        """A mesh that can be changed without changing this one."""
        return Mesh(
            self.at.copy(), self.handles.copy(), self.mixing.copy(), self.crease.copy(), self.slopes.copy(), self.ring
        )

    def transformed(self, m: Affine) -> Mesh:
        """The mesh mapped by ``m``."""
        out = self.copy()
        out.at = apply_points(m, self.at.reshape(-1, 2)).reshape(self.at.shape)
        out.handles = apply_points(m, self.handles.reshape(-1, 2)).reshape(self.handles.shape)
        if not np.isnan(self.slopes).all():  # per unit of length: what is drawn larger runs less steeply
            old, new = reaches(self), reaches(out)
            ratio = old / np.where(new > 0, new, 1.0)
            for k, (v, u) in enumerate(CORNERS):
                across, down = ratio[:, :, _across(u), None], ratio[:, :, _down(v), None]
                out.slopes[:, :, k] *= np.stack([across, down, across * down], axis=2)
        return out


def reaches(mesh: Mesh) -> Floats:
    """How fast lines run through the points: three times the lengths of their handles (rows, columns, 4)."""
    return np.asarray(3 * np.hypot(*np.moveaxis(mesh.handles - mesh.at[:, :, None], -1, 0)))


def _across(u: int) -> int:
    return BEFORE_U if u else AFTER_U


def _down(v: int) -> int:
    return BEFORE_V if v else AFTER_V


def mixing_of(rgba: Floats) -> Floats:
    """Premultiplied OKLab and alpha (..., 4) of straight encoded sRGB and alpha (..., 4)."""
    rgba = np.asarray(rgba, dtype=np.float64)
    return np.concatenate([oklab.from_srgb(rgba[..., :3]) * rgba[..., 3:], rgba[..., 3:]], axis=-1)


def straight_of(mixing: Floats) -> Floats:
    """Straight encoded sRGB and alpha (..., 4), held to 0..1, of premultiplied OKLab and alpha."""
    alpha = np.clip(mixing[..., 3:], 0, 1)
    lab = mixing[..., :3] / np.maximum(mixing[..., 3:], 1e-9)
    return np.concatenate([np.clip(oklab.to_srgb(lab), 0, 1), alpha], axis=-1)


# -- patches: axes are (row of patches, column of patches, v, u, ...)


def corners(values: Floats, ring: bool) -> tuple[Floats, Floats, Floats, Floats]:
    """The values (rows, columns, ...) at the four corners of every patch: (v, u) = 00, 01, 10, 11."""
    right = np.roll(values, -1, axis=1) if ring else values[:, 1:]
    left = values if ring else values[:, :-1]
    return left[:-1], right[:-1], left[1:], right[1:]


def places(mesh: Mesh) -> Floats:
    """The control points of all patches, (rows, columns, 4, 4, 2)."""
    a00, a01, a10, a11 = corners(mesh.at, mesh.ring)
    h00, h01, h10, h11 = corners(mesh.handles, mesh.ring)
    g = np.empty((*a00.shape[:2], 4, 4, 2))
    g[:, :, 0, 0], g[:, :, 0, 3], g[:, :, 3, 0], g[:, :, 3, 3] = a00, a01, a10, a11
    g[:, :, 0, 1], g[:, :, 0, 2] = h00[:, :, AFTER_U], h01[:, :, BEFORE_U]
    g[:, :, 3, 1], g[:, :, 3, 2] = h10[:, :, AFTER_U], h11[:, :, BEFORE_U]
    g[:, :, 1, 0], g[:, :, 2, 0] = h00[:, :, AFTER_V], h10[:, :, BEFORE_V]
    g[:, :, 1, 3], g[:, :, 2, 3] = h01[:, :, AFTER_V], h11[:, :, BEFORE_V]
    for v, u in ((1, 1), (1, 2), (2, 1), (2, 2)):
        v0, v3, u0, u3 = (0, 3, 0, 3) if (v, u) == (1, 1) else (0, 3, 3, 0) if v == 1 else (3, 0, 0, 3)
        if (v, u) == (2, 2):
            v0, v3, u0, u3 = 3, 0, 3, 0
        g[:, :, v, u] = (
            -4 * g[:, :, v0, u0] + 6 * (g[:, :, v0, u] + g[:, :, v, u0]) - 2 * (g[:, :, v0, u3] + g[:, :, v3, u0])
            + 3 * (g[:, :, v3, u] + g[:, :, v, u3]) - g[:, :, v3, u3]
        ) / 9  # fmt: skip
    return g


def slopes_along(values: Floats, distance: Floats, ring: bool) -> Floats:
    """Slopes of values (..., n, k) at n places: of the parabola through each and its neighbours.

    ``distance`` (..., n - 1, or n for a ring) lies between them.
    """
    h = distance[..., None]
    if ring:
        h0 = np.roll(h, 1, axis=-2)
        d1 = (np.roll(values, -1, axis=-2) - values) / h
        d0 = np.roll(d1, 1, axis=-2)
        return np.asarray((d0 * h + d1 * h0) / (h0 + h))
    d = np.diff(values, axis=-2) / h
    if values.shape[-2] == 2:
        return np.concatenate([d, d], axis=-2)
    h0, h1 = h[..., :-1, :], h[..., 1:, :]
    inner = (d[..., :-1, :] * h1 + d[..., 1:, :] * h0) / (h0 + h1)
    first, last = 2 * d[..., :1, :] - inner[..., :1, :], 2 * d[..., -1:, :] - inner[..., -1:, :]
    return np.concatenate([first, inner, last], axis=-2)


def slopes(mesh: Mesh, values: Floats) -> tuple[Floats, Floats, Floats]:
    """Slopes of values (rows, columns, k) per unit of length along rows, along columns, and of one along the other."""
    at = mesh.at
    along_u = np.hypot(*np.moveaxis((np.roll(at, -1, axis=1) - at) if mesh.ring else np.diff(at, axis=1), -1, 0))
    along_v = np.hypot(*np.moveaxis(np.diff(at, axis=0), -1, 0))
    size = max(float(along_u.max(initial=0)), float(along_v.max(initial=0)), 1e-9)
    along_u, along_v = np.maximum(along_u, 1e-6 * size), np.maximum(along_v, 1e-6 * size)

    def by_u(f: Floats) -> Floats:
        return slopes_along(f, along_u, mesh.ring)

    def by_v(f: Floats) -> Floats:
        return np.swapaxes(slopes_along(np.swapaxes(f, 0, 1), along_v.T, False), 0, 1)

    du, dv = by_u(values), by_v(values)
    return du, dv, (by_v(du) + by_u(dv)) / 2


def tones(mesh: Mesh, values: Floats | None = None) -> Floats:
    """The Bernstein coefficients of all patches, (rows, columns, 4, 4, k); of the colours unless told otherwise.

    Other ``values`` (rows, columns, k) run through the points in the same way, but never with fixed slopes: the
    result is linear in them, which is what a fit needs.
    """
    own = mesh.mixing if values is None else values
    du, dv, duv = slopes(mesh, own)
    out = np.empty((mesh.rows, mesh.columns, 4, 4, own.shape[-1]))
    c = corners(own, mesh.ring)
    parts = [corners(s, mesh.ring) for s in (du, dv, duv)]
    lengths, creased = corners(reaches(mesh), mesh.ring), corners(mesh.crease.astype(float), mesh.ring)
    twist = c[3] - c[2] - c[1] + c[0]
    for corner, (v, u) in enumerate(CORNERS):
        su, sv = 1 - 2 * u, 1 - 2 * v
        across, down = lengths[corner][:, :, _across(u), None], lengths[corner][:, :, _down(v), None]
        sharp = creased[corner][..., None] > 0.5
        tu = np.where(sharp, (c[2 * v + 1] - c[2 * v]), parts[0][corner] * across) * (su / 3)
        tv = np.where(sharp, (c[2 + u] - c[u]), parts[1][corner] * down) * (sv / 3)
        tw = np.where(sharp, twist, parts[2][corner] * across * down) * (su * sv / 9)
        if values is None:
            held = corners(mesh.slopes[:, :, corner], mesh.ring)[corner]
            free = np.isnan(held[:, :, 0])
            tu = np.where(free, tu, held[:, :, 0] * across * (su / 3))
            tv = np.where(free, tv, held[:, :, 1] * down * (sv / 3))
            tw = np.where(free, tw, held[:, :, 2] * across * down * (su * sv / 9))
        y, x, y1, x1 = 3 * v, 3 * u, 3 * v + sv, 3 * u + su
        out[:, :, y, x] = c[corner]
        out[:, :, y, x1] = c[corner] + tu
        out[:, :, y1, x] = c[corner] + tv
        out[:, :, y1, x1] = c[corner] + tu + tv + tw
    return out


def all_slopes(mesh: Mesh) -> Floats:
    """The slopes that the colours have at every point in each of its patches, like ``Mesh.slopes`` but all known."""
    tone, reach, n = tones(mesh), reaches(mesh), mesh.at.shape[1]
    out = np.full(mesh.slopes.shape, np.nan)
    for k, (v, u) in enumerate(CORNERS):
        su, sv = 1 - 2 * u, 1 - 2 * v
        rows = slice(v, v + mesh.rows)
        columns = [(j + u) % n for j in range(mesh.columns)]
        across = np.maximum(reach[rows][:, columns, _across(u), None], 1e-12)
        down = np.maximum(reach[rows][:, columns, _down(v), None], 1e-12)
        at, along, along_v = tone[:, :, 3 * v, 3 * u], tone[:, :, 3 * v, 3 * u + su], tone[:, :, 3 * v + sv, 3 * u]
        both = tone[:, :, 3 * v + sv, 3 * u + su]
        parts = [
            (along - at) * 3 * su / across,
            (along_v - at) * 3 * sv / down,
            (both - along - along_v + at) * 9 * su * sv / (across * down),
        ]
        out[rows, columns, k] = np.stack(parts, axis=2)
    for k in range(4):  # beyond a border: as in a patch that is there
        for other in (k ^ 1, k ^ 2, k ^ 3):
            none = np.isnan(out[:, :, k, 0, 0])
            out[none, k] = out[none, other]
    return out


# -- evaluation


def bernstein(t: Floats) -> Floats:
    """The four cubic Bernstein polynomials at t (n,), as (n, 4)."""
    u = 1 - t
    return np.stack([u**3, 3 * u * u * t, 3 * u * t * t, t**3], axis=-1)


def bernstein_slope(t: Floats) -> Floats:
    """Their derivatives, (n, 4)."""
    u = 1 - t
    a, b, c = u * u, 2 * u * t, t * t
    return 3 * np.stack([-a, a - b, b - c, c], axis=-1)


def surface(net: Floats, u: Floats, v: Floats) -> Floats:
    """Values of one net (4, 4, k) at parameters (n,), as (n, k)."""
    return np.asarray(np.einsum("na,nb,abk->nk", bernstein(v), bernstein(u), net))


def surface_slopes(net: Floats, u: Floats, v: Floats) -> tuple[Floats, Floats]:
    """Derivatives along u and along v, each (n, k)."""
    du = np.einsum("na,nb,abk->nk", bernstein(v), bernstein_slope(u), net)
    return np.asarray(du), np.asarray(np.einsum("na,nb,abk->nk", bernstein_slope(v), bernstein(u), net))


@by_value("interval", 512)
def interval(a: float, b: float) -> Floats:
    """The matrix that takes a cubic's control points to those of its part from a to b (its blossom)."""
    rows = []
    for i in range(4):
        points = np.eye(4)
        for t in [a] * (3 - i) + [b] * i:
            points = points[:-1] * (1 - t) + points[1:] * t
        rows.append(points[0])
    return np.array(rows)


def folded(mesh: Mesh) -> NDArray[np.bool_]:
    """Which patches (rows, columns) fold over: their surface turns its back somewhere, or is turned over as a whole."""
    g = places(mesh)
    t = np.linspace(0, 1, 7)
    b, d = bernstein(t), bernstein_slope(t)
    du = np.einsum("va,ub,rcabk->rcvuk", b, d, g)
    dv = np.einsum("va,ub,rcabk->rcvuk", d, b, g)
    turn = du[..., 0] * dv[..., 1] - du[..., 1] * dv[..., 0]
    size = np.abs(turn).max(axis=(2, 3), initial=1e-12)
    way = 1.0 if np.median(turn) >= 0 else -1.0
    return np.asarray((turn * way).min(axis=(2, 3)) < -1e-3 * size)
