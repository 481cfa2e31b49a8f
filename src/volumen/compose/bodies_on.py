"""What a body is laid on: the outline of a shape, each letter of a text, the line of an open path."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress

import numpy as np
from msgspec.structs import replace

from volumen.caching import Cache
from volumen.compose.drawing import Over, drawn_over
from volumen.compose.face import base_colour
from volumen.compose.light import Light
from volumen.geometry.affine import IDENTITY, Affine, invert, mean_scale, multiply, rotation, scaling, uneven
from volumen.geometry.boolean import boolean
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path
from volumen.model.ingredients import BlendMode, Body, Line, Relief
from volumen.model.nodes import Node, Shape, TextForm
from volumen.outline.letters import letters
from volumen.outline.lines import is_broken, line_of, line_outline
from volumen.picture.instructions import FillPath, Item
from volumen.shading.bodies import Asked, bodies_paints, look_of
from volumen.shading.bodies_along import tube_along
from volumen.shading.bodies_mesh import slope_share
from volumen.shading.body_truth import Truth, truth_of
from volumen.shading.lamp import shadow_factor
from volumen.shading.materials import material
from volumen.shading.paint import Colour, LaidMesh, Solid, face_colour
from volumen.shading.paint_pixels import deepest
from volumen.shading.plain_bodies import Coat
from volumen.shading.surfaces import matrix_of
from volumen.shading.tones import Look, lighting

_alone: Cache[Path] = Cache("contours alone")
_LONG = 1.15  # times longer than wide


def body_of(i: Body, node: Node, path: Path, light: Light, world: Affine) -> tuple[Coat, ...]:
    """The paints that a body of ``node`` has under the lamps, back to front; ``path`` is its outline, ``world`` its
    place. Of a body on letters or on a line those of the first; none where a relief stands for it."""
    if is_embossed(i, node):
        return ()
    return next(_laid(i, node, path, light, world), (path, ()))[1]


def body_items(i: Body, node: Node, path: Path, light: Light, world: Affine) -> list[Item]:
    """A body as it is drawn."""
    if is_embossed(i, node):
        base = FillPath(path, world, Solid(_look(i, node, light).base), i.opacity, i.blend)
        return [base, *drawn_over(as_relief(i, node, path, light), Over(node, path, world, light, {}))]
    return [
        FillPath(part, world, coat.paint, i.opacity, blend_of(coat, i))
        for part, coats in _laid(i, node, path, light, world) for coat in coats
    ]  # fmt: skip


def blend_of(coat: Coat, i: Body) -> BlendMode:
    """How a coat is blended in: as its body is, unless it belongs to the coats beneath it."""
    return i.blend if coat.blend == "normal" else coat.blend


def _laid(
    i: Body, node: Node, path: Path, light: Light, world: Affine
) -> Iterator[tuple[Path, tuple[Coat, ...]]]:  # fmt: skip
    """The outlines that a body is laid on, each with its paints, back to front."""
    line = line_of(node, path, i)
    if line is not None and i.kind == "tube":
        yield from _tubes(path, line, world, _look(i, node, light, face_colour(line.paint)), light)
        return
    asked = asked_of(i, node, path, light, world)
    yield from ((a.path, paints) for a, paints in zip(asked, bodies_paints(asked), strict=True))


def _tubes(
    path: Path, line: Line, world: Affine, look: Look, light: Light
) -> Iterator[tuple[Path, tuple[Coat, ...]]]:  # fmt: skip
    """Tubes along each contour of a path, each within its own band: where two cross, the later lies over the other.

    In a place that squeezes it a line stays even on the sheet, so that its tube is laid on the line squeezed.
    """
    squeeze = uneven(world) or IDENTITY
    inverse = invert(squeeze) or IDENTITY
    lights, width = lighting(light.lights, multiply(world, inverse)), line.width * mean_scale(squeeze)
    whole = replace(line, broken=0.0, omitted=())
    band = line_outline(path, line, world)
    courses = path.contours if squeeze == IDENTITY else path.transformed(squeeze).contours
    for contour, course in zip(path.contours, courses, strict=True):
        paint = tube_along(course, width, look, lights, line.profile, line.cap, line.join)
        if paint is None:
            continue
        if squeeze != IDENTITY:
            paint = LaidMesh(paint.mesh.transformed(inverse))
        own = band
        if len(path.contours) > 1:
            alone = _alone.get((id(contour),)) or _alone.put((id(contour),), contour, Path((contour,)))
            own = line_outline(alone, whole, world)
            if is_broken(line):
                with suppress(PathOpError):  # then what is left out is left in
                    own = boolean(own, band, "intersect")
        yield own, (Coat(paint),)


def asked_of(i: Body, node: Node, path: Path, light: Light, world: Affine) -> list[Asked]:
    """What is asked of a body whose paints do not follow a line: one thing for each outline that it is laid on."""
    line, text = line_of(node, path, i), text_of(node)
    if is_embossed(i, node) or (line is not None and i.kind == "tube"):
        return []
    look, whole = _look(i, node, light), path if line is None else line_outline(path, line, world)
    parts = letters(text, whole) if text is not None else (whole,)
    thin = i.opacity < 1 or i.blend != "normal"
    return [Asked(i.kind, part, look, light.lights, world, i.turn, i.mesh, thin) for part in parts]


def is_embossed(i: Body, node: Node) -> bool:
    """Whether a relief stands for a body: for a cushion or a slab on letters, whose strokes no mesh can follow."""
    return i.kind in ("cushion", "slab") and text_of(node) is not None


def as_relief(i: Body, node: Node, path: Path, light: Light) -> Relief:
    """The relief that stands for an embossed body: a cushion rises to its deepest place, a slab near its edge."""
    look, round_one = _look(i, node, light), i.kind == "cushion"
    m, width = look.material, 0.0 if round_one else deepest(path) * slope_share(look.roundness)
    return Relief(
        "inside", "round" if round_one else "flat", width=width,
        height=0.9 * look.roundness if round_one else 0.8, gloss=m.gloss, shininess=4 / max(m.gloss_size, 0.05),
        shade=shadow_factor(look.base, 1.0), shade_opacity=min(m.contrast * look.strength, 1.0) * i.opacity,
        light_opacity=min(2 * m.lighten * look.strength, 1.0) * i.opacity,
    )  # fmt: skip


def text_of(node: Node) -> TextForm | None:
    """The text on whose letters bodies of a node are laid one by one."""
    return node.form if isinstance(node, Shape) and isinstance(node.form, TextForm) else None


def truth_of_body(i: Body, node: Node, path: Path, light: Light, world: Affine) -> Truth | None:
    """How true those paints are to the body's surface; None for what is not asked about (``truth_of``)."""
    if text_of(node) is not None or line_of(node, path, i) is not None:
        return None
    look = _look(i, node, light)
    dull = replace(look, material=replace(look.material, grain=0.0))  # grain is no error
    return truth_of(i.kind, path, dull, light.lights, world, i.turn, i.mesh)


def why_untrue(i: Body, node: Node, path: Path, light: Light, world: Affine) -> str:
    """What keeps a plain gradient from being true to a body, in words."""
    box = path.transformed(rotation(-i.turn)).bounds() or (0.0, 0.0, 1.0, 1.0)
    turned = multiply(multiply(world, rotation(i.turn)), scaling(box[2] - box[0], box[3] - box[1]))
    sizes = np.linalg.svd(matrix_of(turned))[1]
    if sizes[0] > _LONG * sizes[1]:
        return "too long for one gradient"
    if light.lights.others:
        return "too many lamps for one gradient"
    return f"{_look(i, node, light).material.name} has more tones than one gradient"


def _look(i: Body, node: Node, light: Light, own: Colour | None = None) -> Look:
    colour, made_of = i.colour or own or base_colour(node), material(i.material, light.materials)
    return look_of(colour, made_of, i.strength, i.roundness, i.bounce)
