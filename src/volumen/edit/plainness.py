"""What is plain: points, paints and finish that nothing makes anew."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.edit.frozen_ramps import shows_nothing
from volumen.model.catalogue.ingredients import acts_at, row_of
from volumen.model.ingredients import Ingredient, Seams
from volumen.model.nodes import DieForm, Form, Group, Image, Node, PathForm


def is_plain(node: Node) -> bool:
    """Whether there is nothing live in a node, nor in what it holds: no lamp changes it, no form makes it."""
    if node.unlit or node.own_lamp is not None or not all(map(is_plain, node.children)):
        return False
    if isinstance(node, Image):
        return not node.recipe
    if isinstance(node, Group):
        unseen = shows_nothing(node)
        return all(
            i.on and acts_at(i) in ("finish", "behind") and (isinstance(i, Seams) or _is_plain_ingredient(i, unseen))
            for i in node.recipe
        )
    unseen = shows_nothing(node)
    return is_plain_path(node.form) and all(i.on and _is_plain_ingredient(i, unseen) for i in node.recipe)


def is_plain_path(form: Form) -> bool:
    """Whether a form is a path that follows nothing."""
    return isinstance(form, PathForm) and not isinstance(form, DieForm)


def _is_plain_ingredient(i: Ingredient, unseen: bool) -> bool:
    """``unseen``: it is on an outline that shows nothing else, as a glow of several colours is left."""
    place = acts_at(i)
    return row_of(i).plain(i) and place != "rim" and (place != "behind" or unseen) and not isinstance(i, Seams)


def is_same(made: Node, node: Node) -> bool:
    """Whether freezing changed nothing but what a node is called."""
    return made == node or replace(made, id=node.id) == node
