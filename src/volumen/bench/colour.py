"""The figures of colour: meshes as pixels, fitting, dragging a mesh point, steps between paths."""

from __future__ import annotations

import time

import numpy as np
import skia

from volumen.bench.measuring import Row, frame_row, frame_times, median_time, ready_client
from volumen.bench.shapes import blob
from volumen.colour.srgb import Floats
from volumen.edit import recipes
from volumen.geometry.correspondence import match
from volumen.geometry.path import Path
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.ingredients import Fill, Steps
from volumen.model.make import circle, solid
from volumen.model.nodes import Document, Group, Shape, Sheet
from volumen.outline.making import shown_children
from volumen.render.exact.paints import float_surface
from volumen.shading.mesh import Mesh, bernstein, interval, places, straight_of, tones
from volumen.shading.mesh_edit import moved
from volumen.shading.mesh_fit import fit
from volumen.shading.mesh_make import four_sided
from volumen.shading.mesh_paints import from_paint, to_paint
from volumen.shading.mesh_raster import mesh_pixels

SIDE = 840


def colour(quick: bool) -> list[Row]:
    """Meshes, fitting and stepped blends."""
    return [_raster(3 if quick else 9), _fit(), _mesh_drag(12 if quick else 60), _steps(3 if quick else 9)]


def _coloured(p: Floats) -> Floats:
    x, y = p[:, 0] / SIDE * 6, p[:, 1] / SIDE * 6
    return np.stack([0.5 + 0.4 * np.sin(x + y), 0.5 + 0.4 * np.sin(2 * x), 0.5 + 0.4 * np.cos(y), np.ones_like(x)], -1)


def _mesh() -> Mesh:
    mesh = four_sided(rectangle(0, 0, SIDE, SIDE), 8, 8, _coloured)
    rng = np.random.default_rng(2)
    for i in range(1, 8):
        for j in range(1, 8):
            dx, dy = rng.uniform(-22, 22, 2)
            mesh = moved(mesh, [(i, j)], float(dx), float(dy))
    return mesh


def _library_patches(mesh: Mesh, cuts: int) -> Floats:
    """The baseline: the paint library's own Coons patches, each of ours cut into ``cuts`` x ``cuts``."""
    pixels = np.zeros((SIDE, SIDE, 4), np.float32)
    surface = float_surface(pixels)
    canvas = surface.getCanvas()
    t = np.linspace(0, 1, cuts + 1)
    flat = [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)]
    texture = [skia.Point(*q) for q in flat]
    for net, tone in zip(places(mesh).reshape(-1, 4, 4, 2), tones(mesh).reshape(-1, 4, 4, 4), strict=True):
        colours = straight_of(np.einsum("va,ub,abk->vuk", bernstein(t), bernstein(t), tone))
        for j in range(cuts):
            for i in range(cuts):
                control = _part(net, t[i], t[i + 1], t[j], t[j + 1])
                corner = [colours[j, i], colours[j, i + 1], colours[j + 1, i + 1], colours[j + 1, i]]
                packed = [int(skia.ColorSetARGB(*(round(float(c[k]) * 255) for k in (3, 0, 1, 2)))) for c in corner]
                canvas.drawPatch([skia.Point(*q) for q in control], packed, texture, skia.BlendMode.kDst, skia.Paint(AntiAlias=True))  # fmt: skip
    surface.flushAndSubmit()
    return pixels.astype(np.float64)


def _part(net: Floats, u0: float, u1: float, v0: float, v1: float) -> list[tuple[float, float]]:
    """The twelve border points of a part of a patch, clockwise."""
    sub = np.einsum("va,ub,abk->vuk", interval(v0, v1), interval(u0, u1), net)
    order = ((0, 0), (0, 1), (0, 2), (0, 3), (1, 3), (2, 3), (3, 3), (3, 2), (3, 1), (3, 0), (2, 0), (1, 0))
    return [(float(sub[v, u, 0]), float(sub[v, u, 1])) for v, u in order]


def _raster(runs: int) -> Row:
    mesh = _mesh()
    box = (0, 0, SIDE, SIDE)
    dense = mesh_pixels(mesh, box, 0.5)
    mine = median_time(lambda: mesh_pixels(mesh, box), runs) * 1e3
    base = median_time(lambda: _library_patches(mesh, 4), max(runs // 3, 1)) * 1e3
    errors = [np.abs(p - dense)[8:-8, 8:-8] * 255 for p in (mesh_pixels(mesh, box), _library_patches(mesh, 4))]
    worst = [f"{np.quantile(e, 0.999):.1f}, mean {e.mean():.2f}" for e in errors]
    return Row(
        "mesh of 8 x 8 patches as 840 x 840 pixels", f"{base / mine:.1f}x faster, {mine:.0f} ms, error 99.9 % {worst[0]}",
        f"the paint library's patches, {base:.0f} ms, {worst[1]}", ">= 3x faster, smaller error",
    )  # fmt: skip


def _fit() -> Row:
    y, x = (np.mgrid[:1000, :1000] - 500) / 480
    z = np.sqrt(np.maximum(1 - x * x - y * y, 0))
    light = 0.15 + 0.8 * np.clip(-0.4 * x - 0.5 * y + 0.75 * z, 0, None)
    image = np.dstack([light * 0.8, light * 0.5, light * 0.3, (x * x + y * y < 1) * 1.0]).clip(0, 1)
    mesh = four_sided(ellipse(500, 500, 470, 470), 10, 10, lambda p: np.tile([0.5, 0.5, 0.5, 1.0], (len(p), 1)))
    start = time.perf_counter()
    found = fit(mesh, image)
    seconds = time.perf_counter() - start
    return Row("fit of a 10 x 10 mesh to 1000 pixels", f"{seconds:.2f} s, differs by {found.mean:.2f}", "3 s", "<= 3 s")


def _mesh_drag(frames: int) -> Row:
    paint = to_paint(four_sided(ellipse(400, 400, 300, 300), 6, 6, _coloured))
    document = Document(
        Sheet(800, 800), root=Group(0, "pile", (Shape(1, "m", circle(400, 400, 300), (Fill(paint),)),)), next_id=2
    )

    def change(d: Document, i: int) -> Document:
        fill = d.root.children[0].recipe[0]
        mesh = moved(from_paint(paint), [(3, 3)], i % 20, i % 13)
        return recipes.edit_alike(d, [1], 0, fill, paint=to_paint(mesh, paint))

    client = ready_client()
    try:
        times = frame_times(client, document, 0.9, change, frames)
    finally:
        client.close()
    return frame_row("drag a mesh point", times, "16 ms and 33 ms", "<= 1x and <= 1x")


def _steps(runs: int) -> Row:
    rng = np.random.default_rng(6)
    a, b = blob(rng), blob(rng, 500, 200)

    def once() -> list[Path]:
        found = match(a, b)
        return [found.at(k / 51) for k in range(1, 51)]

    mine = median_time(once, runs) * 1e3
    ends = (
        Shape(1, "a", circle(0, 0, 50), (solid("#000000"),)),
        Shape(2, "b", circle(300, 0, 20), (solid("#ffffff"),)),
    )

    def shapes() -> object:
        return shown_children(
            Group(9, "b", tuple(Shape(n.id, n.name, n.form, n.recipe) for n in ends), (Steps(count=50),))
        )

    base = median_time(shapes, runs) * 1e3
    return Row("50 steps between 40-point paths", f"{mine:.1f} ms", f"20 ms (as shapes of a document, between circles: {base:.1f} ms)", "<= 20 ms")  # fmt: skip
