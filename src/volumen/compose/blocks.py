"""Blocks as drawing instructions: walls in the tones of their material or in own colours, and their edges."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from volumen.caching import Cache
from volumen.colour.srgb import Floats
from volumen.compose.drawing import Over, drawn_over, draws_over
from volumen.compose.face import base_colour
from volumen.compose.light import Light
from volumen.compose.seams import closed_seams
from volumen.geometry.affine import IDENTITY, Affine, Point
from volumen.geometry.path import Path
from volumen.geometry.wall import Wall
from volumen.model.catalogue.light import FACINGS
from volumen.model.ingredients import Block, Line, Relief
from volumen.model.nodes import Node
from volumen.outline.blocks import block_of, block_walls, drawn_edges, shift_of, swept
from volumen.outline.lines import line_item
from volumen.picture.instructions import FillPath, Item
from volumen.shading.bodies import look_of
from volumen.shading.materials import material
from volumen.shading.paint import Colour, Conic, Linear, Solid, Stop
from volumen.shading.tones import Lighting, Look, lighting, lit, reduced_each

_FLAT = 1e-3  # walls whose normals differ less are flat
_WAYS = {"above": (0.0, -1.0), "right": (1.0, 0.0), "below": (0.0, 1.0), "left": (-1.0, 0.0)}
_faces: Cache[tuple[Face, ...]] = Cache("faces of blocks", 3000)


_OPEN = Path()


class Face(NamedTuple):
    """A wall as it is painted, the words for the way that it faces, and a place on its front edge."""

    words: str
    item: FillPath
    at: Point


def block_faces(node: Node, world: Affine, light: Light, path: Path) -> tuple[Face, ...]:
    """The faces behind a node with the outline ``path``; none without a block or without light."""
    i = block_of(node.recipe)
    if i is None or not i.faces or light.flat or not path:
        return ()
    made = block_walls(node, path, i, world, light.lamp.away)
    if not made:
        return ()
    base = i.colour or base_colour(node)
    key = (id(made), i, world, light.lights, light.materials, base)
    hit = _faces.get(key)
    if hit is not None:
        return hit
    look = look_of(base, material(i.material, light.materials), 1.0, 1.0, 0.4)
    on_sheet = lighting(light.lights, IDENTITY)
    own = np.concatenate([w.normals for w in made])
    normals, facing = _on_sheet(own, world), _faced(own, world)
    rgb = _tones(normals, facing, i, look, on_sheet)
    cuts = np.cumsum([len(w.edge) for w in made])[:-1]
    each = np.split(facing, cuts)
    paints = _paints(made, i, shift_of(i, world, light.lamp.away), each, np.split(rgb, cuts), look.base.a)
    return _faces.put(key, made, tuple([_face(*row, world) for row in zip(made, each, paints, strict=True)]))


def with_block(node: Node, world: Affine, light: Light, path: Path, shown: list[Item]) -> list[Item]:
    """What a node shows of itself in front of the faces of its block, closed at their seams. A front without a paint of
    its own is open: seams are those of the faces alone."""
    i = block_of(node.recipe)
    faces = block_faces(node, world, light, path)
    if i is None or not faces:
        return shown
    walls, seen = block_walls(node, path, i, world, light.lamp.away), [f.item for f in faces]
    if not any(isinstance(s, FillPath) for s in shown):
        return [closed_seams(seen, swept(_OPEN, walls), world), *shown]
    return [closed_seams([*seen, *shown], swept(path, walls), world)]


def bevel_of(i: Block) -> Relief | None:
    """The bevelled edge of a block's front; None for one without."""
    return Relief("inside", "flat", width=i.bevel, height=0.7) if i.bevel > 0 else None


@draws_over(Block)
def edge_items(i: Block, at: Over) -> list[Item]:
    """The bevel of a block's front, and lines along the edges that are seen."""
    if i is not block_of(at.node.recipe):
        return []
    bevel = bevel_of(i)
    items = [] if bevel is None else list(drawn_over(bevel, at))
    if i.edge <= 0:
        return items
    line = Line(Solid(i.edge_colour), i.edge, "round", "round")
    made = block_walls(at.node, at.path, i, at.world, at.light.lamp.away)
    return [*items, line_item(drawn_edges(at.path, made, i), line, at.world)]


def _face(wall: Wall, normals: Floats, paint: Solid | Linear | Conic, world: Affine) -> Face:
    mean = normals.mean(axis=0)
    words = max(FACINGS, key=lambda f: float(mean @ np.array(_WAYS[f[0]])))[1]
    x, y = wall.edge[len(wall.edge) // 2].tolist()
    return Face(f"facing {words}", FillPath(wall.path, world, paint), (x, y))


def _paints(
    made: Sequence[Wall], i: Block, shift: Point | None, normals: list[Floats], rgb: list[Floats], alpha: float
) -> list[Solid | Linear | Conic]:
    """One colour for a flat wall, a run of tones for a curved one: the stops of all runs are found together."""
    curved = [k for k, n in enumerate(normals) if np.abs(n - n[:1]).max() >= _FLAT]
    runs = [_run(made[k], i, made[k].way or shift) for k in curved]
    stops = _stops([t for t, _ in runs], [rgb[k] for k in curved], alpha) if runs else []
    run_of = {k: replace(paint, stops=found) for k, (_, paint), found in zip(curved, runs, stops, strict=True)}
    return [run_of[k] if k in run_of else Solid(_colour(tones, alpha)) for k, tones in enumerate(rgb)]


def _colour(rgb: Floats, alpha: float) -> Colour:
    r, g, b = rgb.mean(axis=0).tolist()
    return Colour(r, g, b, alpha)


def _on_sheet(normals: Floats, world: Affine) -> Floats:
    """Normals of an outline where it stands on the sheet."""
    a, b, c, d = world[:4]
    sign = 1.0 if a * d - b * c >= 0 else -1.0  # those of what is mirrored still point outwards
    n = np.stack([normals[:, 0] * d - normals[:, 1] * b, normals[:, 1] * a - normals[:, 0] * c], axis=1) * sign
    return np.asarray(n / np.maximum(np.hypot(n[:, 0], n[:, 1]), 1e-12)[:, None])


def _faced(normals: Floats, world: Affine) -> Floats:
    """Normals turned as the object is, but not slanted with the plane that it is laid on: by the rotation nearest to
    its place."""
    a, b, c, d = world[:4]
    if a * d - b * c < 0:  # mirrored left and right first
        a, b, normals = -a, -b, normals * (-1.0, 1.0)
    turn = math.atan2(b - c, a + d)
    cos, sin = math.cos(turn), math.sin(turn)
    return np.stack([normals[:, 0] * cos - normals[:, 1] * sin, normals[:, 0] * sin + normals[:, 1] * cos], axis=1)


def _tones(normals: Floats, facing: Floats, i: Block, look: Look, light: Lighting) -> Floats:
    """Straight sRGB (n, 3) of walls that stand upright, by their normals on the sheet; own colours by the way they
    face on the front."""
    upright = np.concatenate([normals, np.zeros((len(normals), 1))], axis=1)
    toward = np.array(light.key[:2])
    s = normals @ (toward / max(float(np.hypot(*toward)), 1e-9))
    rgb = lit(look, light, upright, s)
    shares = facing**4 / (facing**4).sum(axis=1, keepdims=True)  # of left or right, and of up or down
    own = [
        np.where((facing[:, axis] > 0)[:, None], _of(after, rgb), _of(before, rgb))
        for axis, before, after in ((0, i.left, i.right), (1, i.above, i.below))
    ]
    return np.asarray(own[0] * shares[:, :1] + own[1] * shares[:, 1:])


def _of(colour: Colour | None, rgb: Floats) -> Floats:
    return rgb if colour is None else np.broadcast_to(np.array(colour.rgb), rgb.shape)


def _run(wall: Wall, i: Block, shift: Point | None) -> tuple[Floats, Linear | Conic]:
    """Where along a gradient the places of a curved wall's edge lie, and that gradient, without stops: tones change
    across the depth alone, or with the angle about the block's point."""
    if shift is None:
        assert i.point is not None
        q = wall.edge - np.array(i.point)
        turn = np.unwrap(np.arctan2(q[:, 1], q[:, 0]))
        low = float(turn.min())
        return (turn - low) / (2 * np.pi), Conic((), i.point, float(np.degrees(low)), oklab=False)
    side = np.array([shift[1], -shift[0]]) / np.hypot(*shift)
    u = wall.edge @ side
    low, high = float(u.min()), float(u.max())
    start, end = (side * low).tolist(), (side * high).tolist()
    return (u - low) / max(high - low, 1e-12), Linear((), (start[0], start[1]), (end[0], end[1]), oklab=False)


def _stops(places: list[Floats], rgb: list[Floats], alpha: float) -> list[tuple[Stop, ...]]:
    """Stops for runs of tones (n, 3) at places (n,). Each run is filled up with its last tone to the longest."""
    longest = max(len(t) for t in places)
    t, rgba = np.empty((len(places), longest)), np.full((len(places), longest, 4), alpha)
    for k, (at, tones) in enumerate(zip(places, rgb, strict=True)):
        order = np.argsort(at, kind="stable")
        order = order[np.concatenate([[True], np.diff(at[order]) > 1e-6])]
        order = np.append(order, np.repeat(order[-1], longest - len(order)))
        t[k], rgba[k, :, :3] = at[order], tones[order]
    return reduced_each(t, rgba)
