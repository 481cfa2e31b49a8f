"""Lights: ready settings, saved ones, own lamps, and what of the artwork disagrees with the lamp."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

import msgspec
import numpy as np

from volumen.colour import oklab
from volumen.compose.light import Light, light_at
from volumen.geometry.affine import Affine, Point, apply_vector, rotation, unit
from volumen.geometry.path import Box
from volumen.model.ingredients import CastShadow, Fill, Ingredient, InnerShadow, Sliver
from volumen.model.nodes import Document, LampSet, Node, Shape
from volumen.model.tree import chain_to, place_of, update_nodes, world_of
from volumen.outline.outlines import outline
from volumen.shading.carried import carried
from volumen.shading.lamp import Ambient, Lamp, Lights, bearing_vector
from volumen.shading.paint import Linear, Radial, colour
from volumen.shading.ramp import ramp

replace = msgspec.structs.replace
_WARM, _COOL = colour("#ffe2b8"), colour("#bcd6ff")
READY: tuple[LampSet, ...] = (
    LampSet("studio", Lights()),
    LampSet("morning", Lights(Lamp(68, 26, 1.0, 0.4, _WARM), None, None, Ambient(0.18, _COOL, colour("#d8c2a2")))),
    LampSet("noon", Lights(Lamp(350, 74, 1.05, 0.2), None, None, Ambient(0.15, colour("#e8f2ff"), colour("#cfc6b4")))),
    LampSet("evening", Lights(Lamp(282, 18, 0.95, 0.5, colour("#ffc58a")), Lamp(100, 30, 0.25, 0.3, _COOL))),
    LampSet("stage", Lights(Lamp(330, 52, 1.1, 0.08), None, Lamp(150, 12, 0.8, 0.1, colour("#ff9a78")))),
    LampSet(
        "overcast", Lights(Lamp(10, 66, 0.55, 1.1), None, None, Ambient(0.5, colour("#eef3f7"), colour("#dcdcd8")))
    ),
)
_WRONG_SIDE = 100.0  # degrees between a gradient's light and the lamp
_OFF = 12.0  # degrees that a shadow may lie beside where the lamp throws it


def save_lights(document: Document, name: str) -> Document:
    """Keep the lights of now under a name; one of that name is replaced."""
    rest = tuple(s for s in document.lamp_sets if s.name != name)
    return replace(document, lamp_sets=(*rest, LampSet(name, document.lights)))


def lamp_sets(document: Document) -> tuple[LampSet, ...]:
    """Ready settings and the document's own, the own ones first."""
    own = {s.name for s in document.lamp_sets}
    return (*document.lamp_sets, *(s for s in READY if s.name not in own))


def with_own_lamp(document: Document, ids: Iterable[int], lamp: Lamp | None, unlit: bool = False) -> Document:
    """Let objects have a lamp of their own, ignore all lamps, or follow the document's again (neither)."""
    return update_nodes(document, ids, lambda n: replace(n, own_lamp=lamp, unlit=unlit))


def whose_lamp(document: Document, ids: Iterable[int]) -> tuple[Node, ...]:
    """The nodes whose own lamps shine on all of some objects: themselves or what they are in; empty where the
    document's lamp, or none, shines on one of them."""
    found: dict[int, Node] = {}
    for node_id in ids:
        own = next((n for n in reversed(chain_to(document, node_id)) if n.unlit or n.own_lamp is not None), None)
        if own is None or own.unlit:
            return ()
        found[own.id] = own
    return tuple(found.values())


def lamp_words(owners: tuple[Node, ...]) -> str:
    """Whose lamp it is, in words."""
    return f"lamp of {owners[0].name if len(owners) == 1 else f'{len(owners)} objects'}"[:40] if owners else ""


def key_in_hand(document: Document, ids: Iterable[int]) -> Lamp:
    """The lamp that a selection's sun stands for: its own, else the document's."""
    owners = whose_lamp(document, ids)
    return owners[-1].own_lamp or document.lamp if owners else document.lamp


def with_key_in_hand(document: Document, ids: Iterable[int], lamp: Lamp) -> Document:
    """The document with that lamp changed."""
    owners = whose_lamp(document, ids)
    if owners:
        return with_own_lamp(document, [n.id for n in owners], lamp)
    return replace(document, lamp=lamp)


@dataclass(frozen=True, slots=True)
class Disagreement:
    """One thing that does not follow the lamp: of which node, which ingredient, and why in words."""

    node: int
    index: int
    message: str


def disagreements(document: Document) -> list[Disagreement]:
    """All that disagrees with the lamp. What has a lamp of its own is held against that one."""
    out: list[Disagreement] = []
    for node, world, light in _lit(document):
        for k, i in enumerate(node.recipe):
            why = _why(i, node, world, light.lamp) if i.on else None
            if why is not None:
                out.append(Disagreement(node.id, k, why))
    return out


def _lit(document: Document) -> Iterator[tuple[Node, Affine, Light]]:
    """Every node that is seen and lit, with its place on the sheet and the light that shines on it."""
    stack = [document.root.id]
    while stack:
        chain = chain_to(document, stack.pop())
        light = light_at(document, chain[-1].id)
        if chain[-1].visible and not light.flat:
            yield chain[-1], place_of(chain), light
            stack += [c.id for c in reversed(chain[-1].children)]


def _why(i: Ingredient, node: Node, world: Affine, lamp: Lamp) -> str | None:
    if isinstance(i, CastShadow):
        if i.angle is not None and _between(bearing_vector(i.angle), lamp.away) > _OFF:
            return "its shadow lies in another direction"
        if i.length is not None and i.fall == "sheet":
            return "its shadow has a length of its own"
        return "its shadow has a softness of its own" if i.softness is not None and node.lift > 0 else None
    if isinstance(i, InnerShadow) and i.angle is not None and _between(bearing_vector(i.angle), lamp.toward) > _OFF:
        return "its inner shadow comes from another side"
    if isinstance(i, Sliver) and i.angle is not None and i.by != "inset":
        wanted = lamp.toward if (i.kind == "light") != i.sunk else lamp.away
        if _between(bearing_vector(i.angle), wanted) > _WRONG_SIDE:
            return f"its sliver of {i.kind} lies on the wrong side"
    if isinstance(i, Fill) and isinstance(i.paint, Linear | Radial) and isinstance(node, Shape):
        side = light_side(i.paint)
        if side is not None and _between(_on_sheet(side, world), lamp.toward) > _WRONG_SIDE:
            return "its gradient is lit from the wrong side"
    return None


def _between(a: Point, b: Point) -> float:
    """The angle between two unit vectors, in degrees."""
    return math.degrees(math.acos(min(max(a[0] * b[0] + a[1] * b[1], -1.0), 1.0)))


def _on_sheet(v: Point, world: Affine) -> Point:
    return unit(apply_vector(world, v)) or v


def light_side(paint: Linear | Radial) -> Point | None:
    """The direction in which a gradient grows lighter, in its shape's coordinates; None if it shows none.

    A radial one shows it only where its light lies off its middle.
    """
    tones = oklab.from_srgb(ramp(paint.stops, np.linspace(0, 1, 33), paint.oklab)[:, :3])[:, 0] if paint.stops else None
    if tones is None:
        return None
    if isinstance(paint, Linear):
        t = np.linspace(-0.5, 0.5, 33)
        lean = float((tones * t).sum() / (t * t).sum())
        if abs(lean) < 0.08:
            return None
        (x, y), (u, v) = paint.start, paint.end
        return unit(((u - x) * math.copysign(1, lean), (v - y) * math.copysign(1, lean)))
    if float(tones[0] - tones[-1]) < 0.08:
        return None
    fx, fy = paint.focus[0] - paint.centre[0], paint.focus[1] - paint.centre[1]
    if math.hypot(fx, fy) < 0.08 * paint.radius:
        return None
    return unit(apply_vector(paint.transform, (fx, fy)))


def put_right(document: Document, found: Iterable[Disagreement]) -> Document:
    """Let what disagreed follow the lamp: own numbers go, gradients are turned round the middle of their shape."""
    for d in found:
        righted = _righted(d, world_of(document, d.node), light_at(document, d.node).lamp)
        document = update_nodes(document, [d.node], righted)
    return document


def _righted(d: Disagreement, world: Affine, lamp: Lamp) -> Callable[[Node], Node]:
    def change(node: Node) -> Node:
        i = node.recipe[d.index]
        made: Ingredient = i
        if isinstance(i, CastShadow):
            made = replace(i, angle=None, length=None, softness=None)
        elif isinstance(i, InnerShadow | Sliver):
            made = replace(i, angle=None)
        elif isinstance(i, Fill) and isinstance(i.paint, Linear | Radial) and isinstance(node, Shape):
            box = outline(node).bounds()
            made = replace(i, paint=_turned(i.paint, box, world, lamp)) if box is not None else i
        return replace(node, recipe=(*node.recipe[: d.index], made, *node.recipe[d.index + 1 :]))

    return change


def _turned(paint: Linear | Radial, box: Box, world: Affine, lamp: Lamp) -> Linear | Radial:
    """A gradient turned so that it grows lighter towards the lamp."""
    side = light_side(paint)
    if side is None:
        return paint
    x, y = _on_sheet(side, world)
    tx, ty = lamp.toward
    turn = math.degrees(math.atan2(ty, tx) - math.atan2(y, x))
    if world[0] * world[3] - world[1] * world[2] < 0:
        turn = -turn
    made = carried(paint, rotation(turn, ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)))
    assert isinstance(made, Linear | Radial)
    return made
