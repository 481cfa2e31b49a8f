"""Gradient meshes as PDF shadings of type 7: tensor-product patches with 16-bit colours.

PDF mixes a patch's four corner colours evenly in encoded sRGB; ours run bicubically in OKLab. So each patch is cut,
along and across, into as many as keep the difference below ``TOLERANCE``.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
import pikepdf
from numpy.typing import NDArray

from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.shading.mesh import Mesh, bernstein, interval, places, straight_of, tones

Array, Dictionary, Name = pikepdf.Array, pikepdf.Dictionary, pikepdf.Name
TOLERANCE = 0.5  # CIEDE2000
_FINEST = 32
_BETWEEN, _LINES = 4, 5  # where the difference is looked at: places between two cuts, lines beside each other
# The order in which a patch's sixteen points stand in the file, as (row, column): round the edge, then inside.
_ORDER = (
    (0, 0), (0, 1), (0, 2), (0, 3), (1, 3), (2, 3), (3, 3), (3, 2),
    (3, 1), (3, 0), (2, 0), (1, 0), (1, 1), (1, 2), (2, 2), (2, 1),
)  # fmt: skip
_MARGIN = 0.12  # how far the rim of the mesh runs on outwards, as a share of its patches


def mesh_shadings(pdf: pikepdf.Pdf, mesh: Mesh, space: Any) -> tuple[Any, Any | None]:
    """The shading of a mesh's colours in the mesh's own units, and that of its alpha as grey where it has any."""
    rim_places, rim_tones = _rim(mesh)  # first, so that what is inside lies over it
    nets = np.concatenate([rim_places, places(mesh).reshape(-1, 4, 4, 2)])
    colours = np.concatenate([rim_tones, tones(mesh).reshape(-1, 4, 4, 4)])
    at, corners = cut(nets, colours)
    box = Extent.of(nets)
    shown = patch_shading(pdf, at, corners[..., :3], box, space)
    if (mesh.mixing[..., 3] >= 1 - 1e-6).all():
        return shown, None
    return shown, patch_shading(pdf, at, corners[..., 3:], box, Name.DeviceGray)


class Extent(NamedTuple):
    """The lowest place (2,) of patches and how far they reach from it."""

    low: Floats
    span: Floats

    @staticmethod
    def of(nets: Floats) -> Extent:
        low = nets.min(axis=(0, 1, 2))
        return Extent(low, np.maximum(nets.max(axis=(0, 1, 2)) - low, 1e-6))


def cut(nets: Floats, colours: Floats) -> tuple[Floats, Floats]:
    """Patches (n, 4, 4, 2) with colours (n, 4, 4, 4), premultiplied OKLab, as parts that mix evenly: their control
    points (m, 4, 4, 2) and the straight colours (m, 4, 4) of their corners, round the edge. Parts stay in order."""
    columns, rows = cuts_needed(colours, across=False), cuts_needed(colours, across=True)
    at: list[Floats] = [np.empty((0, 4, 4, 2))] * len(nets)
    corners: list[Floats] = [np.empty((0, 4, 4))] * len(nets)
    for nu, nv in {*zip(columns.tolist(), rows.tolist(), strict=True)}:
        mine = np.flatnonzero((columns == nu) & (rows == nv))
        u, v = (np.array([interval(k / n, (k + 1) / n) for k in range(n)]) for n in (nu, nv))
        made = np.einsum("jva,iub,pabk->pjivuk", v, u, nets[mine]).reshape(len(mine), nu * nv, 4, 4, 2)
        knots = straight_of(_grid(colours[mine], np.linspace(0, 1, nu + 1), np.linspace(0, 1, nv + 1)))
        around = (knots[:, :-1, :-1], knots[:, :-1, 1:], knots[:, 1:, 1:], knots[:, 1:, :-1])
        tone = np.stack(around, axis=3).reshape(len(mine), nu * nv, 4, 4)
        for k, patch in enumerate(mine.tolist()):
            at[patch], corners[patch] = made[k], tone[k]
    return np.concatenate(at), np.concatenate(corners)


def cuts_needed(colours: Floats, across: bool) -> NDArray[np.int64]:
    """Into how many parts each patch (n, 4, 4, 4) must be cut along its columns, or ``across`` them, for even mixes to
    come close enough. Both ways add up, so each has its share of the tolerance."""
    net = np.swapaxes(colours, 1, 2) if across else colours
    needed = np.full(len(net), _FINEST)
    left = np.arange(len(net))
    lines, n = np.linspace(0, 1, _LINES), 1
    while n < _FINEST and len(left):
        fine = straight_of(_grid(net[left], np.linspace(0, 1, _BETWEEN * n + 1), lines))
        knots = fine[:, :, ::_BETWEEN]
        w = (np.arange(_BETWEEN * n) % _BETWEEN / _BETWEEN)[:, None]
        from_to = (np.repeat(k, _BETWEEN, axis=2) for k in (knots[:, :, :-1], knots[:, :, 1:]))
        first, last = from_to
        even, true = first * (1 - w) + last * w, fine[:, :, :-1]
        error = srgb_difference(even[..., :3], true[..., :3]) * true[..., 3] + np.abs(even - true)[..., 3] * 100
        good = error.max(axis=(1, 2)) <= TOLERANCE / math.sqrt(2)
        needed[left[good]] = n
        left, n = left[~good], 2 * n
    return needed


def patch_shading(pdf: pikepdf.Pdf, nets: Floats, corners: Floats, box: Extent, space: Any) -> Any:
    """Patches (n, 4, 4, 2), rows first, with the colours (n, 4, k) of their corners as a shading in a space or grey."""
    whole = 2**32 - 1
    points = np.stack([nets[:, v, u] for v, u in _ORDER], axis=1)
    packed = np.zeros(
        len(nets), [("flag", "u1"), ("places", ">u4", (16, 2)), ("tones", ">u2", (4, corners.shape[-1]))]
    )  # fmt: skip
    packed["places"] = np.clip(np.rint((points - box.low) / box.span * whole), 0, whole)
    packed["tones"] = np.clip(np.rint(corners * 65535), 0, 65535)
    (x, y), (width, height) = box.low.tolist(), box.span.tolist()
    stream = pikepdf.Stream(pdf, packed.tobytes())
    stream.stream_dict = Dictionary(
        ShadingType=7,
        ColorSpace=space,
        BitsPerCoordinate=32,
        BitsPerComponent=16,
        BitsPerFlag=8,
        Decode=Array([x, x + width, y, y + height, *[0, 1] * corners.shape[-1]]),
    )
    return pdf.make_indirect(stream)


def _grid(nets: Floats, along: Floats, across: Floats) -> Floats:
    """The values of nets (n, 4, 4, k) on a grid of parameters, (n, across, along, k)."""
    return np.asarray(np.einsum("va,ub,pabk->pvuk", bernstein(across), bernstein(along), nets))


def _rim(mesh: Mesh) -> tuple[Floats, Floats]:
    """Patches that run on outwards from the border with its colours: an outline may lie a little outside."""
    g, c = places(mesh), tones(mesh)
    sides = [(g[0], c[0], 0, 1), (g[-1], c[-1], 3, 2)]
    if not mesh.ring:
        turned_g, turned_c = np.swapaxes(g, 2, 3), np.swapaxes(c, 2, 3)
        sides += [(turned_g[:, 0], turned_c[:, 0], 0, 1), (turned_g[:, -1], turned_c[:, -1], 3, 2)]
    nets, colours = [], []
    for net, tone, edge, inner in sides:
        line = net[:, edge]
        out = (line - net[:, inner]) * 3 * _MARGIN
        steps = np.arange(4)[:, None, None] / 3
        nets.append(line[:, None] + out[:, None] * steps[None])
        colours.append(np.broadcast_to(tone[:, None, edge], (len(tone), 4, 4, 4)))
    return np.concatenate(nets), np.concatenate(colours)
