"""Editing meshes: lines put in and taken out, points moved, lines smoothed and straightened, folds mended.

All functions return a new mesh and leave the given one alone.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from volumen.colour.srgb import Floats
from volumen.geometry.curve import split
from volumen.shading.mesh import (
    AFTER_U,
    AFTER_V,
    BEFORE_U,
    BEFORE_V,
    Mesh,
    MeshError,
    all_slopes,
    bernstein,
    bernstein_slope,
    folded,
    places,
    surface,
    surface_slopes,
    tones,
)
from volumen.shading.mesh_make import straight_handles

Index = tuple[int, int]  # row, column
_OPPOSITE = {BEFORE_U: AFTER_U, AFTER_U: BEFORE_U, BEFORE_V: AFTER_V, AFTER_V: BEFORE_V}


def insert_column(mesh: Mesh, patch: int, t: float) -> Mesh:
    """A new line of points through a column of patches at ``t`` (0..1). Surface and colours stay as they were."""
    if not 0 <= patch < mesh.columns or not 0.0 < t < 1.0:
        raise MeshError("a line can be put in only inside the mesh")
    g, tone = places(mesh), tones(mesh)
    fixed = with_fixed_slopes(mesh, [patch, (patch + 1) % mesh.at.shape[1]])
    rows = mesh.at.shape[0]
    at = np.empty((rows, 2))
    handles = np.empty((rows, 4, 2))
    mixing = np.empty((rows, 4))
    made = np.empty((rows, 4, 3, 4))
    left, right = patch, (patch + 1) % mesh.at.shape[1]
    out = fixed.copy()
    for i in range(rows):
        band, v = (i, 0.0) if i < mesh.rows else (i - 1, 1.0)
        net, colour = g[band, patch], tone[band, patch]
        line = net[0] if v == 0.0 else net[3]
        first, second = split(line, t)
        at[i] = first[3]
        handles[i, BEFORE_U], handles[i, AFTER_U] = first[2], second[1]
        out.handles[i, left, AFTER_U], out.handles[i, right, BEFORE_U] = first[1], second[2]
        mixing[i] = surface(colour, np.array([t]), np.array([v]))[0]
    for i in range(rows):  # the new line itself: the cubics that the patches have there
        for band, handle, row in ((i, AFTER_V, 1), (i - 1, BEFORE_V, 2)):
            inside = min(max(band, 0), mesh.rows - 1)
            side = 0 if band == i else 2  # the corners that the new point is in the patches below, or above
            made[i, side : side + 2] = _slopes_at(g[inside, patch], tone[inside, patch], t, float(inside < i))
            spine = np.einsum("b,abk->ak", bernstein(np.array([t]))[0], g[inside, patch])
            if band == inside:
                handles[i, handle] = spine[row]
            else:  # beyond the border nothing is drawn: the handle goes on straight
                edge = 0 if handle == BEFORE_V else 3
                inner = 1 if handle == BEFORE_V else 2
                handles[i, handle] = 2 * spine[edge] - spine[inner]
    where = patch + 1
    return Mesh(
        np.insert(out.at, where, at, axis=1), np.insert(out.handles, where, handles, axis=1),
        np.insert(out.mixing, where, mixing, axis=1), np.insert(out.crease, where, False, axis=1),
        np.insert(out.slopes, where, made, axis=1), out.ring,
    )  # fmt: skip


def _slopes_at(net: Floats, tone: Floats, u: float, v: float) -> Floats:
    """The slopes of the colour inside a patch per unit of length (3, 4)."""
    uu, vv = np.array([u]), np.array([v])
    (du_c,), (dv_c,) = surface_slopes(tone, uu, vv)
    (du_p,), (dv_p,) = surface_slopes(net, uu, vv)
    lu, lv = max(float(np.hypot(*du_p)), 1e-6), max(float(np.hypot(*dv_p)), 1e-6)
    twist = np.einsum("a,b,abk->k", bernstein_slope(vv)[0], bernstein_slope(uu)[0], tone)
    return np.stack([du_c / lu, dv_c / lv, twist / (lu * lv)])


def with_fixed_slopes(mesh: Mesh, columns: Iterable[int]) -> Mesh:
    """The mesh with the colour slopes of all points of some columns, and of their neighbours, held as they are."""
    out = mesh.copy()
    now, n = all_slopes(mesh), mesh.at.shape[1]
    for c in columns:
        for near in (c - 1, c, c + 1):
            j = near % n if mesh.ring else near
            if 0 <= j < n:
                free = np.isnan(out.slopes[:, j, 0, 0, 0])
                out.slopes[free, j] = now[free, j]
    return out


def remove_column(mesh: Mesh, column: int) -> Mesh:
    """Take a line of points out. A line that was put in before leaves no trace. Raises MeshError at the border."""
    n = mesh.at.shape[1]
    if mesh.ring:
        if n <= 3:
            raise MeshError("a ring needs at least three columns")
        column %= n
        left, right = (column - 1) % n, (column + 1) % n
    else:
        if not 0 < column < n - 1:
            raise MeshError("the border of a mesh cannot be taken out")
        left, right = column - 1, column + 1
    out = with_fixed_slopes(mesh, [column])
    for i in range(mesh.at.shape[0]):
        before = mesh.handles[i, column, BEFORE_U] - mesh.at[i, column]
        after = mesh.handles[i, column, AFTER_U] - mesh.at[i, column]
        la, lb = float(np.hypot(*before)), float(np.hypot(*after))
        t = min(max(la / max(la + lb, 1e-12), 0.02), 0.98)
        a, b = mesh.at[i, left], mesh.at[i, right]
        out.handles[i, left, AFTER_U] = a + (mesh.handles[i, left, AFTER_U] - a) / t
        out.handles[i, right, BEFORE_U] = b + (mesh.handles[i, right, BEFORE_U] - b) / (1 - t)
    return _columns(out, [j for j in range(n) if j != column], out.ring)


def _columns(mesh: Mesh, which: list[int], closes: bool) -> Mesh:
    """A mesh of some columns of another's points."""
    return Mesh(
        mesh.at[:, which], mesh.handles[:, which], mesh.mixing[:, which], mesh.crease[:, which], mesh.slopes[:, which],
        closes,
    )  # fmt: skip


def turned(mesh: Mesh) -> Mesh:
    """Rows as columns; only for meshes that are no rings."""
    order = [BEFORE_V, AFTER_V, BEFORE_U, AFTER_U]
    return Mesh(
        _swapped(mesh.at), _swapped(mesh.handles)[:, :, order], _swapped(mesh.mixing),
        np.ascontiguousarray(mesh.crease.T), _swapped(mesh.slopes)[:, :, [0, 2, 1, 3]][:, :, :, [1, 0, 2]], False,
    )  # fmt: skip


def _swapped(values: Floats) -> Floats:
    return np.ascontiguousarray(np.swapaxes(values, 0, 1))


def _opened(mesh: Mesh) -> Mesh:
    """A ring cut open: its first column stands at both ends."""
    return _columns(mesh, [*range(mesh.at.shape[1]), 0], False)


def _closed(mesh: Mesh) -> Mesh:
    """A ring that was cut open, closed again."""
    return _columns(mesh, list(range(mesh.at.shape[1] - 1)), True)


def insert_row(mesh: Mesh, patch: int, t: float) -> Mesh:
    """A new line of points through a row of patches; see ``insert_column``."""
    if not mesh.ring:
        return turned(insert_column(turned(mesh), patch, t))
    held = with_fixed_slopes(mesh, range(mesh.at.shape[1]))  # cut open, a ring would run its colours otherwise
    return _closed(turned(insert_column(turned(_opened(held)), patch, t)))


def remove_row(mesh: Mesh, row: int) -> Mesh:
    """A mesh without one of its rows; the shape stays as near as the others allow."""
    if not mesh.ring:
        return turned(remove_column(turned(mesh), row))
    held = with_fixed_slopes(mesh, range(mesh.at.shape[1]))
    return _closed(turned(remove_column(turned(_opened(held)), row)))


def freed(mesh: Mesh, points: Iterable[Index]) -> Mesh:
    """The mesh with the colour slopes of some points and their neighbours free again: they follow what is set there."""
    out = mesh.copy()
    high, wide = mesh.at.shape[:2]
    for i, j in points:
        for di, dj in ((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (1, -1), (-1, 1), (-1, -1)):
            y, x = i + di, (j + dj) % wide if mesh.ring else j + dj
            if 0 <= y < high and 0 <= x < wide:
                out.slopes[y, x] = np.nan
    return out


def with_colour(mesh: Mesh, points: Iterable[Index], mixing: Floats) -> Mesh:
    """Points in one colour (premultiplied OKLab and alpha)."""
    order = list(points)
    out = freed(mesh, order)
    for i, j in order:
        out.mixing[i, j] = mixing
    return out


def moved(mesh: Mesh, points: Iterable[Index], dx: float, dy: float) -> Mesh:
    """Points moved with their handles."""
    out = mesh.copy()
    for i, j in points:
        out.at[i, j] += (dx, dy)
        out.handles[i, j] += (dx, dy)
    return out


def with_handle(mesh: Mesh, point: Index, which: int, to: tuple[float, float], mirrored: bool = True) -> Mesh:
    """A handle put elsewhere; the one opposite turns with it unless ``mirrored`` is off."""
    out = mesh.copy()
    i, j = point
    out.handles[i, j, which] = to
    arm = np.array(to) - out.at[i, j]
    size = float(np.hypot(*arm))
    if mirrored and size > 1e-9:
        other = _OPPOSITE[which]
        length = float(np.hypot(*(mesh.handles[i, j, other] - mesh.at[i, j])))
        out.handles[i, j, other] = out.at[i, j] - arm / size * length
    return out


def smooth_handles(mesh: Mesh, points: Iterable[Index]) -> Mesh:
    """Lines through some points made smooth: handles lie along the chord between the neighbours."""
    out = mesh.copy()
    for i, j in points:
        p = mesh.at[i, j]
        for before, after, di, dj in ((BEFORE_U, AFTER_U, 0, 1), (BEFORE_V, AFTER_V, 1, 0)):
            a, b = _neighbour(mesh, i - di, j - dj), _neighbour(mesh, i + di, j + dj)
            if a is None or b is None:
                continue
            d = b - a
            size = float(np.hypot(*d)) or 1.0
            out.handles[i, j, before] = p - d / size * float(np.hypot(*(p - a))) / 3
            out.handles[i, j, after] = p + d / size * float(np.hypot(*(b - p))) / 3
    return out


def _neighbour(mesh: Mesh, i: int, j: int) -> Floats | None:
    high, wide = mesh.at.shape[:2]
    if mesh.ring:
        j %= wide
    return mesh.at[i, j] if 0 <= i < high and 0 <= j < wide else None


def straightened(mesh: Mesh, points: Iterable[Index]) -> Mesh:
    """Straight lines between neighbouring points of a set; the border of the mesh stays."""
    out = mesh.copy()
    flat = straight_handles(mesh.at, mesh.ring)
    chosen = set(points)
    wide = mesh.at.shape[1]
    for i, j in chosen:
        for which, (di, dj) in ((BEFORE_U, (0, -1)), (AFTER_U, (0, 1)), (BEFORE_V, (-1, 0)), (AFTER_V, (1, 0))):
            y, x = i + di, (j + dj) % wide if mesh.ring else j + dj
            edge = (i in (0, mesh.at.shape[0] - 1) and di == 0) or (not mesh.ring and j in (0, wide - 1) and dj == 0)
            if (y, x) in chosen and not edge:
                out.handles[i, j, which] = flat[i, j, which]
    return out


def relaxed(mesh: Mesh, points: Iterable[Index], strength: float = 0.5) -> Mesh:
    """Inner points drawn towards the middle of their neighbours, their lines made smooth again."""
    chosen = [(i, j) for i, j in points if _inner(mesh, i, j)]
    out = mesh.copy()
    for i, j in chosen:
        near = (_neighbour(mesh, i + di, j + dj) for di, dj in ((-1, 0), (1, 0), (0, -1), (0, 1)))
        around = [n for n in near if n is not None]
        out.at[i, j] += (np.mean(around, axis=0) - mesh.at[i, j]) * strength
        out.handles[i, j] += out.at[i, j] - mesh.at[i, j]
    return smooth_handles(out, chosen)


def _inner(mesh: Mesh, i: int, j: int) -> bool:
    return 0 < i < mesh.at.shape[0] - 1 and (mesh.ring or 0 < j < mesh.at.shape[1] - 1)


def mended(mesh: Mesh, rounds: int = 40) -> Mesh:
    """Folded patches pulled flat: their inner points are relaxed until nothing folds, or as far as that goes."""
    out = mesh
    for _ in range(rounds):
        bad = folded(out)
        if not bad.any():
            break
        out = _flattened(out, bad)
    return out


def _flattened(mesh: Mesh, bad: NDArray[np.bool_]) -> Mesh:
    wide = mesh.at.shape[1]
    touched = {
        (int(i) + di, (int(j) + dj) % wide if mesh.ring else int(j) + dj)
        for i, j in np.argwhere(bad) for di in (0, 1) for dj in (0, 1)
    }  # fmt: skip
    out = relaxed(mesh, touched, 0.6)
    # Handles that reach farther than half way to the next point are what folds most.
    for i, j in touched:
        for which, (di, dj) in ((BEFORE_U, (0, -1)), (AFTER_U, (0, 1)), (BEFORE_V, (-1, 0)), (AFTER_V, (1, 0))):
            next_at = _neighbour(out, i + di, j + dj)
            if next_at is None:
                continue
            arm = out.handles[i, j, which] - out.at[i, j]
            limit = 0.45 * float(np.hypot(*(next_at - out.at[i, j])))
            size = float(np.hypot(*arm))
            if size > limit > 0:
                out.handles[i, j, which] = out.at[i, j] + arm * (limit / size)
    return out


def mirrored(mesh: Mesh) -> Mesh:
    """The right half as the mirror image of the left half, about the middle of the mesh's box.

    Raises MeshError for rings and for an odd number of columns of patches.
    """
    if mesh.ring or mesh.columns % 2:
        raise MeshError("mirroring needs an even number of columns and no ring")
    out = mesh.copy()
    x0, x1 = mesh.at[..., 0].min(), mesh.at[..., 0].max()
    axis = mesh.at[:, mesh.columns // 2, 0].mean() if mesh.columns > 1 else (x0 + x1) / 2
    for k in range(mesh.columns // 2):
        far = mesh.columns - k
        out.at[:, far] = (2 * axis, 0) + mesh.at[:, k] * (-1, 1)
        flipped = (2 * axis, 0) + mesh.handles[:, k] * (-1, 1)
        out.handles[:, far] = flipped[:, [AFTER_U, BEFORE_U, BEFORE_V, AFTER_V]]
        out.mixing[:, far], out.crease[:, far], out.slopes[:, far] = mesh.mixing[:, k], mesh.crease[:, k], np.nan
    middle = mesh.columns // 2
    out.at[:, middle, 0] = axis
    arm = out.handles[:, middle, BEFORE_U] - out.at[:, middle]
    out.handles[:, middle, AFTER_U] = out.at[:, middle] + arm * (-1, 1)
    return out
