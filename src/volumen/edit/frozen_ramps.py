"""What fades in colours of its own is no plain shape: frozen it stays an ingredient, with the numbers that it was drawn
with, on outlines that show nothing else."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.edit.frozen_items import NodeMaker
from volumen.geometry.affine import Affine, invert, mean_scale, multiply
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path
from volumen.model.ingredients import Fill, Ingredient, Line, Occlusion, OuterGlow, Recipe
from volumen.model.nodes import Group, Node, Shape
from volumen.outline.forms import path_form
from volumen.outline.silhouettes import SILHOUETTE, silhouette_path
from volumen.picture.instructions import FillPath, Soft, StrokePath

_UNSEEN = Fill(SILHOUETTE, 0.0)


def ramped_nodes(
    taker: NodeMaker, node: Node, i: Ingredient, item: Soft, world: Affine, parent: Affine, name: str
) -> list[Node]:
    """Nodes, in the coordinates that ``parent`` maps to the sheet, for an ingredient and what was drawn of it."""
    back = invert(parent)
    if back is None:
        return []
    size = item.sigma * mean_scale(back)
    inner: Node
    if isinstance(i, OuterGlow):
        try:
            path = silhouette_path(node, world, max(i.spread, 0.0) * mean_scale(world))
        except PathOpError:
            path = Path()
        if not path:
            return []
        still: Ingredient = replace(i, size=size, spread=0.0, opacity=item.opacity)
        inner = Shape(taker.take(), name, path_form(path.transformed(back)), (_UNSEEN, still))
    else:
        assert isinstance(i, Occlusion)
        still = replace(i, reach=size, colour=item.colour, opacity=item.opacity)
        paths = [part for part in item.items if isinstance(part, FillPath | StrokePath)]
        parts = tuple(_unseen(taker, part, multiply(back, part.transform)) for part in paths)
        inner = Group(taker.take(), name, parts, (still,))
    made: list[Node] = [Group(taker.take(), name, (inner,), substance=False)]
    return made if item.clip is None else taker.held(made, item.clip, back, name)


def _unseen(taker: NodeMaker, item: FillPath | StrokePath, place: Affine) -> Shape:
    """A part of a silhouette as a shape that shows nothing: its edges meet those of other parts as they did before."""
    recipe: Recipe = (_UNSEEN,)
    if isinstance(item, StrokePath):
        recipe = (Line(SILHOUETTE, item.width, item.cap, item.join, item.miter, opacity=0.0),)
    return Shape(taker.take(), "outline", path_form(item.path), recipe, transform=place)


def shows_nothing(node: Node) -> bool:
    """Whether all paints and lines of a branch are clear."""
    clear = all(i.opacity <= 0 for i in node.recipe if isinstance(i, Fill | Line))
    return clear and all(map(shows_nothing, node.children))
