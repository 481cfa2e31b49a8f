"""What the recipe's panel calls things, and what of an object decides which rows it shows."""

from __future__ import annotations

import math

from volumen.model.catalogue.forms import FORM_ROWS
from volumen.model.ingredients import Fill, Ingredient, Line
from volumen.model.nodes import CombinedForm, DieForm, Group, Image, Node, PathForm, Shape, TextForm


def as_good_as(a: object, b: object) -> bool:
    return isinstance(a, float | int) and isinstance(b, float | int) and math.isclose(a, b, rel_tol=1e-6, abs_tol=1e-9)


def form_layout(node: Node) -> object:
    """What of a form decides which rows its card has."""
    if not isinstance(node, Shape):
        return type(node)
    return type(node.form), isinstance(node.form, TextForm) and node.form.path is not None


def layout_of(i: Ingredient) -> object:
    """What of an ingredient decides which widgets its closed card has."""
    return type(i.paint) if isinstance(i, Fill | Line) else None


def title_of(nodes: list[Node]) -> str:
    if not nodes:
        return ""
    return nodes[0].name if len(nodes) == 1 else f"{len(nodes)} objects"


def form_name(node: Node) -> str:
    if isinstance(node, Image):
        return "Reference image: in no export"
    if isinstance(node, Group):
        return f"Group of {len(node.children)}"
    form, name = node.form, FORM_ROWS[type(node.form)].title
    if isinstance(form, DieForm):
        return f"{name}: it follows the artwork"
    if isinstance(form, PathForm):
        count = sum(len(run.points) for run in form.runs)
        return f"Path of {count} point{'' if count == 1 else 's'}"
    if isinstance(form, CombinedForm):
        return f"Combination of {sum(c.member for c in node.children)}"
    return f"{name} on a path" if isinstance(form, TextForm) and form.path is not None else name
