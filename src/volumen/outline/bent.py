"""Motifs bent along a spine: their outlines follow it, paints and lengths are carried as it runs at their middle."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import msgspec
import numpy as np

from volumen.geometry.affine import IDENTITY, Affine, mean_scale, multiply
from volumen.geometry.curve import segments_of
from volumen.geometry.path import Contour, Path, contour_from_cubics
from volumen.geometry.spine import Spine
from volumen.model.catalogue.ingredients import with_references
from volumen.model.ingredients import REPEATING, Recipe, without_form_changes
from volumen.model.lengths import carried_recipe
from volumen.model.nodes import Group, Image, Node, Shape
from volumen.model.tree import walk
from volumen.outline.courses import Lay
from volumen.outline.forms import path_form
from volumen.outline.making import made_id, shown_before
from volumen.outline.outlines import outline, remember_source

replace = msgspec.structs.replace
_TOLERANCE = 0.02  # units
_Outlines = dict[int, Path]


def bent(nodes: tuple[Node, ...], lays: list[Lay], spine: Spine, of: tuple[int, ...]) -> Iterator[tuple[Node, ...]]:
    """Some nodes at each of the places, the outlines of all of them in one go. ``of`` numbers what is made."""
    drawn: _Outlines = {}
    expanded = tuple([_gathered(n, IDENTITY, drawn) for n in nodes])
    ids = [m.id for n in expanded for m in walk(n)]
    for lay, outlines in zip(lays, _followed(drawn, lays, spine), strict=True):
        own = {k: made_id(*of, lay.number, k) for k in ids}
        yield tuple([_made(n, IDENTITY, lay, outlines, own) for n in expanded])


def _gathered(node: Node, parent: Affine, drawn: _Outlines) -> Node:
    """A node with what its repeats make as children of it; outlines go among the drawn ones, as the motif has them."""
    m = multiply(parent, node.transform)
    if isinstance(node, Shape):
        drawn[node.id] = outline(node, m).transformed(m)
    if isinstance(node, Image):
        return node
    shown = shown_before(node, len(node.recipe)) if isinstance(node, Group) else node.children
    children = tuple([_gathered(c, m, drawn) for c in shown if not c.member])
    recipe = tuple([i for i in node.recipe if not isinstance(i, REPEATING)])
    return replace(node, children=children, recipe=recipe)


def _followed(drawn: _Outlines, lays: list[Lay], spine: Spine) -> Iterator[_Outlines]:
    """The drawn outlines as they follow the spine at each of the places."""
    contours = [(k, c) for k, path in drawn.items() for c in path.contours if len(c.points) > 3]
    if not contours or not lays:
        yield from ({k: Path() for k in drawn} for _ in lays)
        return
    base = segments_of([c for _, c in contours])
    scale = np.array([(lay.along[0], lay.along[3]) for lay in lays])[:, None, None]
    shift = np.array([lay.along[4:] for lay in lays])[:, None, None]
    cubics, which = spine.bent((base * scale + shift).reshape(-1, 4, 2), _TOLERANCE)
    ends = np.cumsum([0, *(len(c.segments) for _, c in contours)])
    for n in range(len(lays)):
        cuts = np.searchsorted(which, n * len(base) + ends)
        out: dict[int, list[Contour]] = {k: [] for k in drawn}
        for (k, c), low, high in zip(contours, cuts, cuts[1:], strict=False):
            out[k].append(contour_from_cubics(cubics[low:high], c.closed))
        yield {k: Path(tuple(made), drawn[k].evenodd) for k, made in out.items()}


def _made(node: Node, parent: Affine, lay: Lay, outlines: _Outlines, own: Mapping[int, int]) -> Node:
    m = multiply(parent, node.transform)
    place = multiply(lay.turned, m)
    if isinstance(node, Image):
        return replace(node, id=own[node.id], transform=place)
    children = tuple([_made(c, m, lay, outlines, own) for c in node.children])
    recipe: Recipe = tuple([with_references(i, own) for i in carried_recipe(node.recipe, place)])
    lift = node.lift * mean_scale(place)
    made = replace(node, id=own[node.id], transform=IDENTITY, children=children, recipe=recipe, lift=lift, link=None)
    if isinstance(made, Group):
        return made
    path = outlines[node.id]
    form = path_form(path)
    if not path.evenodd:
        remember_source(form, path)
    return replace(made, form=form, recipe=without_form_changes(recipe))
