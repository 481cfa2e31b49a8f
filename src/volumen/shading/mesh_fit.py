"""Fitting a mesh to a picture: least squares under smoothness.

The colour at any place of the mesh is linear in the colours of its points, so all of them follow from one small
system of equations. Positions are found by Gauss-Newton steps on what error remains.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from volumen.colour import oklab
from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.shading.mesh import Mesh, bernstein, folded, places, surface_slopes, tones
from volumen.shading.mesh_edit import insert_column, insert_row, moved, smooth_handles
from volumen.shading.mesh_raster import mesh_pixels

SMOOTHNESS = 1e-3
_PIXELS_A_SIDE = 24  # samples of a patch
Progress = Callable[[float], None]


class Cancelled(Exception):
    """The fit was stopped by hand."""


@dataclass(frozen=True, slots=True)
class Fitted:
    """A fitted mesh, the error that remains per pixel (CIEDE2000; NaN outside), and its mean."""

    mesh: Mesh
    error: Floats
    mean: float


@dataclass(frozen=True, slots=True)
class _Samples:
    """Where patches are compared with the picture: patch (n,), u (n,), v (n,), the picture's colours there (n, 4)."""

    patch: np.ndarray[tuple[int], np.dtype[np.int64]]
    u: Floats
    v: Floats
    wanted: Floats


def fit(
    mesh: Mesh, image: Floats, positions: int = 0, smoothness: float = SMOOTHNESS, progress: Progress | None = None
) -> Fitted:
    """Colours (and with ``positions`` rounds also inner points) of a mesh that come nearest to a picture.

    The mesh is in the picture's pixels. ``image`` is (h, w, 4) straight encoded sRGB; pixels of no alpha do not
    count. ``progress`` is told how much is done and may raise ``Cancelled``.
    """
    tell = progress or (lambda done: None)
    current = coloured(mesh, image, smoothness)
    tell(1 / (positions + 2))
    best = _square_error(current, image)
    for k in range(positions):
        step = _positions_moved(current, image)
        trial = coloured(step, image, smoothness)
        error = _square_error(trial, image)
        if error >= best or folded(trial).any():
            break
        current, best = trial, error
        tell((k + 2) / (positions + 2))
    differences = error_map(current, image)
    tell(1.0)
    return Fitted(current, differences, float(np.nanmean(differences)) if np.isfinite(differences).any() else 0.0)


def coloured(mesh: Mesh, image: Floats, smoothness: float = SMOOTHNESS) -> Mesh:
    """The mesh with the colours of its points solved; positions stay."""
    samples = _samples(mesh, image)
    count = mesh.at.shape[0] * mesh.at.shape[1]
    unit = np.eye(count).reshape(*mesh.at.shape[:2], count)
    # How the sixteen coefficients of every patch follow from the points: (patches, 16, points).
    spread = tones(mesh, unit).reshape(-1, 16, count)
    basis = (bernstein(samples.v)[:, :, None] * bernstein(samples.u)[:, None, :]).reshape(-1, 16)
    left, right = np.zeros((count, count)), np.zeros((count, 4))
    order = np.argsort(samples.patch, kind="stable")
    bounds = np.searchsorted(samples.patch[order], np.arange(len(spread) + 1))
    for k in range(len(spread)):
        rows = order[bounds[k] : bounds[k + 1]]
        if len(rows):
            b = basis[rows]
            used = np.abs(spread[k]).max(axis=0) > 0
            part = spread[k][:, used]
            left[np.ix_(used, used)] += part.T @ (b.T @ b) @ part
            right[used] += part.T @ (b.T @ samples.wanted[rows])
    weight = smoothness * max(float(np.trace(left)) / count, 1e-9)
    left += weight * _roughness(mesh) + 1e-9 * np.eye(count)
    solved = np.linalg.solve(left, right)
    out = mesh.copy()
    out.mixing = _held(solved).reshape(mesh.mixing.shape)
    out.slopes[:] = np.nan
    return out


def _held(mixing: Floats) -> Floats:
    """Colours with an alpha between 0 and 1."""
    alpha = np.clip(mixing[:, 3:], 0.0, 1.0)
    lab = mixing[:, :3] / np.maximum(mixing[:, 3:], 1e-3)
    return np.concatenate([lab * alpha, alpha], axis=1)


def _roughness(mesh: Mesh) -> Floats:
    """The sum of squared second differences along rows and columns, as a quadratic form of the points' values."""
    high, wide = mesh.at.shape[:2]
    number = np.arange(high * wide).reshape(high, wide)
    rows = []
    if mesh.ring:
        rows.append(np.stack([np.roll(number, 1, 1), number, np.roll(number, -1, 1)], -1).reshape(-1, 3))
    elif wide > 2:
        rows.append(np.stack([number[:, :-2], number[:, 1:-1], number[:, 2:]], -1).reshape(-1, 3))
    if high > 2:
        rows.append(np.stack([number[:-2], number[1:-1], number[2:]], -1).reshape(-1, 3))
    out = np.zeros((high * wide, high * wide))
    for triple in np.concatenate(rows) if rows else ():
        out[np.ix_(triple, triple)] += np.outer((1, -2, 1), (1, -2, 1))
    return out


def _samples(mesh: Mesh, image: Floats) -> _Samples:
    """The picture read at even parameters of every patch; places outside it or without alpha are left out."""
    t = (np.arange(_PIXELS_A_SIDE) + 0.5) / _PIXELS_A_SIDE
    v, u = (a.reshape(-1) for a in np.meshgrid(t, t, indexing="ij"))
    nets = places(mesh).reshape(-1, 4, 4, 2)
    b = (bernstein(v)[:, :, None] * bernstein(u)[:, None, :]).reshape(-1, 16)
    at = np.einsum("sk,pkc->psc", b, nets.reshape(-1, 16, 2))
    n = len(nets)
    rgba, inside = read(image, at.reshape(-1, 2))
    patch = np.repeat(np.arange(n), len(t) ** 2)
    lab = oklab.from_srgb(rgba[:, :3])
    wanted = np.concatenate([lab * rgba[:, 3:], rgba[:, 3:]], axis=1)
    return _Samples(patch[inside], np.tile(u, n)[inside], np.tile(v, n)[inside], wanted[inside])


def read(image: Floats, at: Floats) -> tuple[Floats, np.ndarray[tuple[int], np.dtype[np.bool_]]]:
    """The picture's colours (n, 4) at places (n, 2) in pixels, evenly between pixels; and which lie in it."""
    h, w = image.shape[:2]
    x, y = at[:, 0] - 0.5, at[:, 1] - 0.5
    inside = (at[:, 0] >= 0) & (at[:, 0] <= w) & (at[:, 1] >= 0) & (at[:, 1] <= h)
    x0, y0 = np.clip(np.floor(x).astype(int), 0, w - 1), np.clip(np.floor(y).astype(int), 0, h - 1)
    x1, y1 = np.minimum(x0 + 1, w - 1), np.minimum(y0 + 1, h - 1)
    fx, fy = np.clip(x - x0, 0, 1)[:, None], np.clip(y - y0, 0, 1)[:, None]
    rgba = (image[y0, x0] * (1 - fx) + image[y0, x1] * fx) * (1 - fy) + (
        image[y1, x0] * (1 - fx) + image[y1, x1] * fx
    ) * fy
    return np.asarray(rgba), inside & (image[y0, x0, 3] > 0.02)


def _square_error(mesh: Mesh, image: Floats) -> float:
    samples = _samples(mesh, image)
    made = _values(mesh, samples)
    return float(((made - samples.wanted) ** 2).sum() / max(len(made), 1))


def _values(mesh: Mesh, samples: _Samples) -> Floats:
    nets = tones(mesh).reshape(-1, 16, 4)
    basis = (bernstein(samples.v)[:, :, None] * bernstein(samples.u)[:, None, :]).reshape(-1, 16)
    return np.asarray(np.einsum("sk,skc->sc", basis, nets[samples.patch]))


def _positions_moved(mesh: Mesh, image: Floats) -> Mesh:
    """One damped Gauss-Newton step of the inner points: each carries the colours round it along."""
    samples = _samples(mesh, image)
    left = samples.wanted - _values(mesh, samples)
    geometry, tone = places(mesh).reshape(-1, 4, 4, 2), tones(mesh).reshape(-1, 4, 4, 4)
    high, wide = mesh.at.shape[:2]
    count = high * wide
    a, b = np.zeros((2 * count, 2 * count)), np.zeros(2 * count)
    numbers = np.arange(count).reshape(high, wide)
    for k in range(len(geometry)):
        rows = np.flatnonzero(samples.patch == k)
        if not len(rows):
            continue
        u, v = samples.u[rows], samples.v[rows]
        pu, pv = surface_slopes(geometry[k], u, v)
        cu, cv = surface_slopes(tone[k], u, v)
        det = pu[:, 0] * pv[:, 1] - pu[:, 1] * pv[:, 0]
        det = np.where(np.abs(det) < 1e-6, 1e-6, det)[:, None]
        cx, cy = (cu * pv[:, 1:] - cv * pu[:, 1:]) / det, (cv * pu[:, :1] - cu * pv[:, :1]) / det
        i, j = divmod(k, mesh.columns)
        share = _pulls(u, v)
        corner = [numbers[i, j], numbers[i, (j + 1) % wide], numbers[i + 1, j], numbers[i + 1, (j + 1) % wide]]
        jacobian = np.zeros((len(rows), 4, 8))
        for c in range(4):
            jacobian[:, :, 2 * c] = -cx * share[:, c : c + 1]
            jacobian[:, :, 2 * c + 1] = -cy * share[:, c : c + 1]
        flat = jacobian.reshape(-1, 8)
        index = np.array([[2 * c, 2 * c + 1] for c in corner]).reshape(-1)
        a[np.ix_(index, index)] += flat.T @ flat
        b[index] += flat.T @ left[rows].reshape(-1)
    free = np.zeros((high, wide), bool)
    free[1:-1, :] = True
    if not mesh.ring:
        free[:, [0, -1]] = False
    use = np.repeat(free.reshape(-1), 2)
    if not use.any():
        return mesh
    system = a[np.ix_(use, use)]
    system += np.eye(len(system)) * (0.05 * float(np.trace(system)) / len(system) + 1e-12)
    step = np.zeros(2 * count)
    step[use] = np.linalg.solve(system, b[use])
    limit = 0.25 * float(np.sqrt(np.abs(np.ptp(mesh.at[..., 0]) * np.ptp(mesh.at[..., 1])) / len(geometry)))
    shift = step.reshape(high, wide, 2)
    shift *= np.minimum(1, limit / np.maximum(np.hypot(*np.moveaxis(shift, -1, 0)), 1e-9))[..., None]
    out = mesh
    for i, j in np.argwhere(free):
        out = moved(out, [(int(i), int(j))], float(shift[i, j, 0]), float(shift[i, j, 1]))
    return smooth_handles(out, [(int(i), int(j)) for i, j in np.argwhere(free)])


def _pulls(u: Floats, v: Floats) -> Floats:
    """How far a place follows when a corner of its patch moves with its handles, (n, 4)."""
    su, sv = u * u * (3 - 2 * u), v * v * (3 - 2 * v)
    return np.stack([(1 - su) * (1 - sv), su * (1 - sv), (1 - su) * sv, su * sv], axis=1)


def error_map(mesh: Mesh, image: Floats) -> Floats:
    """The CIEDE2000 difference of mesh and picture per pixel, NaN where there is no mesh or no picture."""
    h, w = image.shape[:2]
    pixels = mesh_pixels(mesh, (0, 0, w, h), extend=False).astype(np.float64)
    seen = (pixels[..., 3] > 0.02) & (image[..., 3] > 0.02)
    out = np.full((h, w), np.nan)
    straight = pixels[seen, :3] / pixels[seen, 3:]
    out[seen] = srgb_difference(straight, image[seen, :3])
    return out


def refined(mesh: Mesh, image: Floats) -> Mesh:
    """A line more through the row or column of patches where the error is worst. Colours run as before."""
    samples = _samples(mesh, image)
    square = ((_values(mesh, samples) - samples.wanted) ** 2).sum(axis=1)
    total = np.bincount(samples.patch, square, mesh.rows * mesh.columns).reshape(mesh.rows, mesh.columns)
    by_row, by_column = total.sum(axis=1), total.sum(axis=0)
    if by_row.max() > by_column.max():
        return insert_row(mesh, int(by_row.argmax()), 0.5)
    return insert_column(mesh, int(by_column.argmax()), 0.5)
