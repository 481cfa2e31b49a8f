"""The light check: what of the artwork disagrees with the lamp, and how it is put right.

Shadows and slivers with numbers of their own are held against those that the lamp would give. Of paints it is seen from
which side they are lit: their tones, over what lies beneath them, are sampled where the outline shows them, on the
sheet, and the side towards which they grow lighter is taken, whatever kind of gradient it is and whatever its place
does to it. Facets, which meet their neighbours along an edge, may face away; grounds may have any fall of light.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import pairwise

import msgspec

from volumen.compose.light import Light, light_at
from volumen.edit.drawn_slivers import DrawnSliver, drawn_slivers, turned_over
from volumen.edit.lit_from import lit_from, turned
from volumen.edit.placing import USUAL_LIFT, fitting_lift
from volumen.geometry.affine import Affine, Point
from volumen.geometry.path import Box
from volumen.model.ingredients import CastShadow, Fill, Ingredient, InnerShadow, Line, Recipe, Seams, Sliver
from volumen.model.meant import MeantSo
from volumen.model.nodes import Document, Node, Sheet
from volumen.model.tree import chain_to, place_of, update_nodes, world_of
from volumen.outline.neighbours import shared_edges
from volumen.outline.silhouettes import whole_outline
from volumen.shading.lamp import Lamp, bearing_vector, shadow_reach

replace = msgspec.structs.replace
_WRONG_SIDE = 100.0  # degrees between the side that a paint is lit from and the lamp
_SLIVER_OFF = 60.0  # that a sliver may lie beside its side
_OFF = 12.0  # that a shadow may lie beside where the lamp throws it
_LENGTH, _SOFTNESS = 2.0, 2.5  # times longer or softer than the lamp makes it, or that much less


@dataclass(frozen=True, slots=True)
class Disagreement:
    """One thing that does not follow the lamp: of which node, which ingredient, what (in a word), and why in words."""

    node: int
    index: int
    what: str
    message: str
    drawn: DrawnSliver | None = None  # where the whole node is a sliver


Found = tuple[str, str]  # what, and why in words


def disagreements(document: Document) -> list[Disagreement]:
    """All that disagrees with the lamp and is not meant so. What has a lamp of its own is held against that one."""
    meant = {(m.node, m.what) for m in document.meant_so}
    out: list[Disagreement] = []
    for chain, light in _lit(document):
        node, world = chain[-1], place_of(chain)
        for k, i in enumerate(node.recipe):
            found = _found(i, k, node, world, light.lamp) if i.on else None
            if found is None or (node.id, found[0]) in meant:
                continue
            if found[0] == "gradient" and (_is_facet(chain) or _is_ground(node, world, document.sheet)):
                continue
            out.append(Disagreement(node.id, k, *found))
        drawn = [d for d in _drawn(chain, light.lamp) if (d.node, d.what) not in meant]
        if drawn and not _is_facet(chain) and not _is_ground(node, world, document.sheet):
            out += drawn
    return out


def _drawn(chain: list[Node], lamp: Lamp) -> Iterator[Disagreement]:
    """Slivers drawn by hand on the shape at the end of a chain that lie on the wrong side of it."""
    for found in drawn_slivers(chain):
        wanted = lamp.toward if found.kind == "light" else lamp.away
        if _between(found.side, wanted) > _WRONG_SIDE:
            what, why = f"drawn {found.kind}", f"it lays {found.kind} on the wrong side of what it lies on"
            yield Disagreement(found.node, found.index, what, why, found)


def _lit(document: Document) -> Iterator[tuple[list[Node], Light]]:
    """Every node that is seen and lit, at the end of what it is in, and the light that shines on it."""
    stack = [document.root.id]
    while stack:
        chain = chain_to(document, stack.pop())
        light = light_at(document, chain[-1].id)
        if chain[-1].visible and not light.flat:
            yield chain, light
            stack += [c.id for c in reversed(chain[-1].children)]


def _is_facet(chain: list[Node]) -> bool:
    """Whether a node, or something that it is in, is one of several facets."""
    return any(
        any(isinstance(i, Seams) and i.on for i in parent.recipe) or child.id in shared_edges(parent)
        for parent, child in pairwise(chain)
    )


def _found(i: Ingredient, index: int, node: Node, world: Affine, lamp: Lamp) -> Found | None:
    if isinstance(i, CastShadow):
        return _of_shadow(i, node, lamp)
    if isinstance(i, InnerShadow):
        if i.angle is not None and _between(bearing_vector(i.angle), lamp.toward) > _OFF:
            return "inner shadow", "its inner shadow comes from another side"
        if i.softness is not None and _off(i.softness, abs(i.depth) * lamp.size, _SOFTNESS):
            return "softness of the inner shadow", "its inner shadow is as soft as under another lamp"
    if isinstance(i, Sliver) and i.angle is not None and i.by not in ("inset", "outline"):
        wanted = lamp.toward if (i.kind == "light") != i.sunk else lamp.away
        if _between(bearing_vector(i.angle), wanted) > _SLIVER_OFF:
            return f"sliver of {i.kind}", f"its sliver of {i.kind} lies on the wrong side"
    if isinstance(i, Fill | Line):
        side = lit_from(i, node.recipe[:index], whole_outline(node, world), world)
        if side is not None and _between(side, lamp.toward) > _WRONG_SIDE:
            return "gradient", "its gradient is lit from the wrong side"
    return None


def _of_shadow(i: CastShadow, node: Node, lamp: Lamp) -> Found | None:
    if i.angle is not None and _between(bearing_vector(i.angle), lamp.away) > _OFF:
        return "shadow", "its shadow lies in another direction"
    if node.lift <= 0:
        return None if i.fall == "ground" else ("lift", "it casts a shadow and is not lifted")
    if i.length is not None and _off(i.length, node.lift * shadow_reach(lamp), _LENGTH):
        return "length of the shadow", "its shadow is as long as under another lamp"
    if i.softness is not None and _off(i.softness, node.lift * lamp.size, _SOFTNESS):
        return "softness of the shadow", "its shadow is as soft as under another lamp"
    return None


def _off(own: float, wanted: float, times: float) -> bool:
    """Whether a length is far from what it would be; below half a unit no eye sees a difference."""
    return max(own, 0.5) > times * max(wanted, 0.5) or max(wanted, 0.5) > times * max(own, 0.5)


def _is_ground(node: Node, world: Affine, sheet: Sheet) -> bool:
    """Whether something reaches across the sheet: a sky or a floor, whose fall of light is its own."""
    box = whole_outline(node, world).transformed(world).bounds()
    return box is not None and _across(box, sheet)


def _across(box: Box, sheet: Sheet) -> bool:
    wide = (min(box[2], sheet.width) - max(box[0], 0.0)) / sheet.width
    high = (min(box[3], sheet.height) - max(box[1], 0.0)) / sheet.height
    return max(wide, high) >= 0.95 and min(wide, high) >= 0.2


def _between(a: Point, b: Point) -> float:
    """The angle between two unit vectors, in degrees."""
    return math.degrees(math.acos(min(max(a[0] * b[0] + a[1] * b[1], -1.0), 1.0)))


# -- what becomes of it


def put_right(document: Document, found: Iterable[Disagreement]) -> Document:
    """Let what disagreed follow the lamp: own numbers go, gradients are turned round the middle of their shape."""
    for d in found:
        if d.drawn is not None:
            document = turned_over(document, d.drawn, place_of(chain_to(document, d.node)[:-1]))
            continue
        document = update_nodes(document, [d.node], _righted(document, d))
    return document


def meant(document: Document, found: Iterable[Disagreement]) -> Document:
    """Let what disagreed be as it is: the light check leaves it alone from now on."""
    more = tuple(dict.fromkeys(MeantSo(d.node, d.what) for d in found))
    return replace(document, meant_so=(*(m for m in document.meant_so if m not in more), *more))


def alike(found: Iterable[Disagreement], chosen: Iterable[Disagreement]) -> list[Disagreement]:
    """All that disagree in the same ways as those chosen."""
    wanted = {d.what for d in chosen}
    return [d for d in found if d.what in wanted]


def _righted(document: Document, d: Disagreement) -> Callable[[Node], Node]:
    world, lamp = world_of(document, d.node), light_at(document, d.node).lamp

    def change(node: Node) -> Node:
        recipe: Recipe = (
            *node.recipe[: d.index], _made_right(node, d, world, lamp), *node.recipe[d.index + 1 :]
        )  # fmt: skip
        return replace(node, recipe=recipe, lift=_lift_for(document, node, node.recipe[d.index], lamp))

    return change


def _lift_for(document: Document, node: Node, i: Ingredient, lamp: Lamp) -> float:
    """The lift of a node; what lies flat under a shadow is lifted as far as that is long, or by what fits its size."""
    if node.lift > 0 or not isinstance(i, CastShadow) or i.fall == "ground":
        return node.lift
    reach = shadow_reach(lamp)
    return i.length / reach if i.length and reach > 0 else fitting_lift(document, node, USUAL_LIFT)


def _made_right(node: Node, d: Disagreement, world: Affine, lamp: Lamp) -> Ingredient:
    i = node.recipe[d.index]
    if isinstance(i, CastShadow):
        return replace(i, angle=None, length=None, softness=None)
    if isinstance(i, InnerShadow):
        return replace(i, angle=None, softness=None)
    if isinstance(i, Sliver):
        return replace(i, angle=None)
    if isinstance(i, Fill | Line):
        return turned(i, node.recipe[: d.index], whole_outline(node, world), world, lamp.toward)
    return i
