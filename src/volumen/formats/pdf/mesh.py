"""Gradient meshes as PDF shadings of type 7: tensor-product patches with 16-bit colours.

PDF mixes a patch's four corner colours evenly in encoded sRGB; ours run bicubically in OKLab. So each patch is cut
into as many as keep the difference below ``TOLERANCE``.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from typing import Any

import numpy as np
import pikepdf

from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.shading.mesh import Mesh, bernstein, interval, places, straight_of, tones

Array, Dictionary, Name = pikepdf.Array, pikepdf.Dictionary, pikepdf.Name
TOLERANCE = 0.5  # CIEDE2000
_FINEST = 32
# The order in which a patch's sixteen points stand in the file, as (row, column): round the edge, then inside.
_ORDER = (
    (0, 0), (0, 1), (0, 2), (0, 3), (1, 3), (2, 3), (3, 3), (3, 2),
    (3, 1), (3, 0), (2, 0), (1, 0), (1, 1), (1, 2), (2, 2), (2, 1),
)  # fmt: skip
_MARGIN = 0.12  # how far the rim of the mesh runs on outwards, as a share of its patches


def mesh_shadings(pdf: pikepdf.Pdf, mesh: Mesh, space: Any) -> tuple[Any, Any | None]:
    """The shading of a mesh's colours in the mesh's own units, and that of its alpha as grey where it has any."""
    g = places(mesh).reshape(-1, 4, 4, 2)
    tone = tones(mesh).reshape(-1, 4, 4, 4)
    rim_places, rim_tones = _rim(mesh)
    everywhere = np.concatenate([g, rim_places])
    low = everywhere.min(axis=(0, 1, 2))
    span = np.maximum(everywhere.max(axis=(0, 1, 2)) - low, 1e-6)
    colour, grey = [], []
    for net, colours in [*zip(rim_places, rim_tones, strict=True), *zip(g, tone, strict=True)]:
        for place, corner in _cut(net, colours):
            xy = packed_places(place, low, span)
            colour.append(xy + packed_tones(corner[:, :3]))
            grey.append(xy + packed_tones(corner[:, 3:]))
    shown = patch_shading(pdf, colour, low, span, space)
    if (mesh.mixing[..., 3] >= 1 - 1e-6).all():
        return shown, None
    return shown, patch_shading(pdf, grey, low, span, Name.DeviceGray)


def _cut(net: Floats, colours: Floats) -> Iterator[tuple[Floats, Floats]]:
    """A patch as parts that mix evenly: their control points (4, 4, 2) and straight colours at the corners (4, 4)."""
    n = cuts_needed(colours)
    steps = np.linspace(0, 1, n + 1)
    at = straight_of(_grid(colours, steps))
    rows = [interval(steps[i], steps[i + 1]) for i in range(n)]
    for j in range(n):
        for i in range(n):
            place = np.einsum("va,ub,abk->vuk", rows[j], rows[i], net)
            yield place, np.stack([at[j, i], at[j, i + 1], at[j + 1, i + 1], at[j + 1, i]])


def patch_shading(pdf: pikepdf.Pdf, parts: list[bytes], low: Floats, span: Floats, space: Any) -> Any:
    """Packed patches, their places between ``low`` and ``low + span``, as a shading in a colour space or in grey."""
    decode = [low[0], low[0] + span[0], low[1], low[1] + span[1]] + [0, 1] * (1 if space == Name.DeviceGray else 3)
    stream = pikepdf.Stream(pdf, b"".join(parts))
    stream.stream_dict = Dictionary(
        ShadingType=7,
        ColorSpace=space,
        BitsPerCoordinate=32,
        BitsPerComponent=16,
        BitsPerFlag=8,
        Decode=Array([float(v) for v in decode]),
    )
    return pdf.make_indirect(stream)


def cuts_needed(colours: Floats) -> int:
    """Into how many parts a side a patch (4, 4, 4) must be cut for an even mix to come close enough."""
    n = 1
    while n < _FINEST:
        fine = straight_of(_grid(colours, np.linspace(0, 1, 4 * n + 1)))
        f = np.arange(4 * n + 1) / 4
        k = np.minimum(f.astype(int), n - 1)
        w = (f - k)[:, None]
        knots = fine[::4, ::4]
        by_u = knots[:, k] * (1 - w) + knots[:, k + 1] * w
        even = by_u[k] * (1 - w[:, None]) + by_u[k + 1] * w[:, None]
        error = srgb_difference(even[..., :3], fine[..., :3]) * fine[..., 3] + np.abs(even - fine)[..., 3] * 100
        if error.max() <= TOLERANCE:
            return n
        n *= 2
    return n


def _grid(net: Floats, t: Floats) -> Floats:
    """A net's values on a grid of parameters, (rows v, columns u, k)."""
    b = bernstein(t)
    return np.asarray(np.einsum("va,ub,abk->vuk", b, b, net))


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


def packed_places(net: Floats, low: Floats, span: Floats) -> bytes:
    """A patch's control points (4, 4, 2), rows first, as the file holds them."""
    points = np.array([net[v, u] for v, u in _ORDER])
    xy = np.clip(np.rint((points - low) / span * (2**32 - 1)), 0, 2**32 - 1).astype(">u4")
    return struct.pack(">B", 0) + xy.tobytes()


def packed_tones(corner: Floats) -> bytes:
    """The colours (4, k) of a patch's corners, 0..1, as the file holds them."""
    return np.clip(np.rint(corner * 65535), 0, 65535).astype(">u2").tobytes()
