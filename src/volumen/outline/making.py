"""What a group shows: its children, what its repeats make between and of them, and what acts on each.

How a kind of repeat makes its nodes is registered beside the making itself. What is made has ids below zero, which
stay the same as long as the copy, its source and its group do.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, TypeVar

import msgspec

from volumen.caching import Cache
from volumen.model.ingredients import REPEATING, Body, Ingredient, Recipe
from volumen.model.nodes import Group, Node, Shape
from volumen.model.tree import painted_children
from volumen.outline.line_drawing import as_lines

replace = msgspec.structs.replace
_made: Cache[tuple[Node, ...]] = Cache("children with what is made of them")

# (what is there so far, the ingredient, its group, its number in the recipe) -> what is there then, back to front
Make = Callable[[tuple[Node, ...], Any, Group, int], tuple[Node, ...]]
_MAKES: dict[type, Make] = {}
M = TypeVar("M", bound=Make)


def makes(kind: type) -> Callable[[M], M]:
    """Registers the function that shows what a kind of repeat makes."""

    def register(make: M) -> M:
        _MAKES[kind] = make
        return make

    return register


def made_id(*of: int) -> int:
    """An id below zero for what is made, by the numbers that say of what: 62 bits of their hash."""
    natural = tuple([2 * k if k >= 0 else -2 * k - 1 for k in of])  # the hashes of -1 and -2 are the same
    return -(hash(natural) & 0x3FFF_FFFF_FFFF_FFFF) - 1


def repeats_of(node: Node) -> list[tuple[int, Ingredient]]:
    """The repeats of a group that are on, with their numbers in its recipe."""
    if not isinstance(node, Group):
        return []
    return [(k, i) for k, i in enumerate(node.recipe) if isinstance(i, REPEATING) and i.on]


def shown_children(node: Node) -> tuple[Node, ...]:
    """The children that are painted, with what is made of them, and with what acts on each of them.

    The same children under the same recipe give the same nodes.
    """
    made = _with_made(node)
    if not any(c.lines_only for c in made):
        return made
    key = ("lines", tuple([id(c) for c in made]))
    hit = _made.get(key)
    return hit if hit is not None else _made.put(key, made, tuple(as_lines(c) if c.lines_only else c for c in made))


def all_shown(node: Node) -> Iterator[Node]:
    """A node with all that is in it or made in it."""
    yield node
    for child in shown_children(node):
        yield from all_shown(child)


def _with_made(node: Node) -> tuple[Node, ...]:
    repeats, shared = repeats_of(node), shared_ingredients(node)
    if not shared and not repeats:
        return painted_children(node)
    assert isinstance(node, Group)
    key = (tuple(repeats), shared, tuple([id(c) for c in node.children]), node.id)
    hit = _made.get(key)
    if hit is not None:
        return hit
    made = shown_before(node, len(node.recipe))
    if shared:
        made = tuple(replace(c, recipe=(*c.recipe, *_for_child(c, shared))) for c in made)
    return _made.put(key, node.children, made)


def shown_before(group: Group, rank: int) -> tuple[Node, ...]:
    """What a group shows with only those of its repeats that stand before position ``rank`` of its recipe."""
    made = painted_children(group)
    for k, i in repeats_of(group):
        if k < rank:
            made = _MAKES[type(i)](made, i, group, k)
    return made


def _for_child(child: Node, shared: Recipe) -> Recipe:
    """What acts on each child of a group goes on inward where the child is a group and it is a body: bodies want
    outlines and colours of their own."""
    if not isinstance(child, Group):
        return shared
    return tuple(replace(i, each=True) if isinstance(i, Body) else i for i in shared)


def itself(node: Shape | Group) -> Shape | Group:
    """A node without what acts on each of its children instead."""
    if not shared_ingredients(node):
        return node
    return replace(node, recipe=tuple(i for i in node.recipe if not getattr(i, "each", False)))


def shared_ingredients(node: Node) -> Recipe:
    """What of a group's recipe acts on each of its children instead of the group as one."""
    if not isinstance(node, Group):
        return ()
    return tuple(replace(i, each=False) for i in node.recipe if getattr(i, "each", False) and i.on)
