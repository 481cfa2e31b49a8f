"""What is plain: points, paints and finish that nothing makes anew."""

from __future__ import annotations

from volumen.compose.glows import glow_ramp
from volumen.model.catalogue.ingredients import acts_at, is_lit, row_of
from volumen.model.ingredients import Blur, Feather, Fill, Ingredient, OuterGlow, Seams
from volumen.model.nodes import Group, Image, Node, PathForm


def is_plain(node: Node) -> bool:
    """Whether there is nothing live in a node, nor in what it holds: no lamp changes it, no form makes it."""
    if node.unlit or node.own_lamp is not None or not all(map(is_plain, node.children)):
        return False
    if isinstance(node, Image):
        return not node.recipe
    if isinstance(node, Group):
        return all(i.on and isinstance(i, Blur | Feather | Seams) for i in node.recipe)
    unseen = all(i.opacity <= 0 for i in node.recipe if isinstance(i, Fill))
    return isinstance(node.form, PathForm) and all(i.on and _is_plain_ingredient(i, unseen) for i in node.recipe)


def _is_plain_ingredient(i: Ingredient, unseen: bool) -> bool:
    """``unseen``: it is on an outline that shows nothing else, as a glow of several colours is left."""
    if isinstance(i, OuterGlow):
        return unseen and bool(glow_ramp(i))
    return row_of(i).plain and not is_lit(i) and acts_at(i) != "rim" and not isinstance(i, Seams)
