"""What a combination looks like, and what of its members' looks, or of its own, goes lost with it: told in words."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from volumen.edit.line_outlines import on_band
from volumen.geometry.affine import IDENTITY, Affine, multiply
from volumen.geometry.path import Path
from volumen.model.catalogue.ingredients import row_of
from volumen.model.ingredients import BlendMode, Fill, Ingredient, Line, Recipe, without_form_changes
from volumen.model.lengths import carried_recipe
from volumen.model.nodes import IN_PIECES, CombinedForm, Combining, Document, Group, Image, Node, Shape
from volumen.model.tree import find, members, top_level, walk
from volumen.outline.lines import is_filled
from volumen.outline.outlines import outline
from volumen.shading.paint import Paint


def look_of(node: Node, place: Affine) -> Recipe:
    """The recipe of a node without its form changes, in the coordinates that ``place`` leads to; a group's front shape
    stands for it. What is only a line looks like a fill in the line's paint: its band is what is combined."""
    while isinstance(node, Group) and node.children:
        node = node.children[-1]
        place = multiply(place, node.transform)
    recipe = carried_recipe(without_form_changes(node.recipe), place)
    lines = [i for i in recipe if isinstance(i, Line) and i.on]
    if not lines or is_filled(node, outline(node) if isinstance(node, Shape) else Path()):
        return recipe
    rest = tuple(on_band(i) for i in recipe if not isinstance(i, Line))
    return (*(Fill(i.paint, i.opacity, i.blend) for i in lines), *rest)


def seen_through(node: Node) -> tuple[float, BlendMode]:
    """The opacity and the blend mode of what gives a combination its look."""
    opacity, blend = node.opacity, node.blend
    while isinstance(node, Group) and node.children:
        node = node.children[-1]
        opacity, blend = opacity * node.opacity, blend if blend != "normal" else node.blend
    return opacity, blend


def looks_dropped(document: Document, ids: Iterable[int], operation: Combining) -> str:
    """What a combination that has one look cannot show of the objects it is made of, in words."""
    order = top_level(document, ids)
    nodes = [n for i in order if (n := find(document, i)) is not None]
    shapes = [n for n in nodes if not isinstance(n, Image)]
    told = ["pictures have no outline and stay as they are"] if len(shapes) < len(nodes) else []
    if not shapes:
        return ""
    if operation in IN_PIECES:
        told += _of_groups(shapes)
    else:
        told += _of_others(shapes, operation)
    return "; ".join(told)


def _of_others(shapes: Sequence[Node], operation: Combining) -> list[str]:
    """What a combination with one look drops of its members."""
    kept = shapes[0] if operation == "subtract" else shapes[-1]
    others = [n for n in shapes if n is not kept]
    if operation == "subtract":  # those in front only cut
        others = []
    leaves = [leaf for o in others for leaf in walk(o) if isinstance(leaf, Shape)]
    inside = [n for n in walk(kept) if n is not kept] if isinstance(kept, Group) else []
    leaves += [n for n in inside if isinstance(n, Shape)]
    own = _face(kept) if isinstance(kept, Shape) else None
    count = len({c for leaf in leaves if (c := _face(leaf)) is not None} - {own})
    told = [f"one look for all: {count} other colour{'s' if count > 1 else ''} dropped"] if count else []
    groups = [kept] if isinstance(kept, Group) else []
    lost = _words([*others, *leaves, *groups], look_of(kept, IDENTITY))
    return told + ([f"not shown any more: {', '.join(lost)}"] if lost else [])


def _of_groups(shapes: Sequence[Node]) -> list[str]:
    """What groups among the members showed as one, which no piece can; their opacity alone goes on to it."""
    groups = [n for s in shapes for n in walk(s) if isinstance(n, Group)]
    lost = [row_of(i).title for g in groups for i in g.recipe if i.on]
    lost += ["blend mode of a group" for g in groups if g.blend != "normal"]
    return [f"what groups showed as one is left out: {', '.join(dict.fromkeys(lost))}"] if lost else []


def _words(nodes: Iterable[Node], kept: Recipe) -> list[str]:
    """What some nodes show beyond their fills and lines that a recipe does not, each kind once."""
    lost = [row_of(i).title for n in nodes for i in without_form_changes(n.recipe) if _is_light(i) and i not in kept]
    lost += ["opacity" for n in nodes if n.opacity < 1]
    lost += ["blend mode" for n in nodes if n.blend != "normal"]
    return list(dict.fromkeys(lost))


def _is_light(i: Ingredient) -> bool:
    return i.on and not isinstance(i, Fill | Line)


def own_light(combination: Node) -> str:
    """What a combination shows of its own that its members do not, in words: it goes when they are released."""
    parts = members(combination)
    if not isinstance(combination, Shape) or not isinstance(combination.form, CombinedForm) or not parts:
        return ""
    subtracts = combination.form.operation == "subtract"
    giver = parts[0] if subtracts else parts[-1]
    in_pieces = combination.form.operation in IN_PIECES
    given: Recipe = () if in_pieces else look_of(giver, giver.transform)
    lost = [row_of(i).title for i in combination.recipe if i.on and i not in given]
    opacity, blend = (1.0, "normal") if in_pieces else seen_through(giver)
    lost += ["opacity"] if combination.opacity != opacity else []
    lost += ["blend mode"] if combination.blend != blend else []
    return ", ".join(dict.fromkeys(lost))


def _face(node: Node) -> Paint | None:
    found = [i.paint for i in node.recipe if isinstance(i, Fill | Line) and i.on]
    return found[-1] if found else None


def seen_of(node: Node) -> Iterator[Node]:
    """What is in a node and shows something of its own: no members, but those that pieces are cut from."""
    in_pieces = isinstance(node, Shape) and isinstance(node.form, CombinedForm) and node.form.operation in IN_PIECES
    for child in node.children:
        if not child.member or in_pieces:
            yield child
            yield from seen_of(child)
