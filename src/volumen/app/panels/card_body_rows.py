"""The row of a body's card that tells how true its paint is, and offers a mesh where no gradient comes near."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton

from volumen.app import theme
from volumen.app.panels.slot import IngredientSlot
from volumen.compose.bodies_on import truth_of_body, why_untrue
from volumen.compose.light import Light, light_at
from volumen.geometry.affine import Affine
from volumen.geometry.path import Path
from volumen.model.ingredients import Body
from volumen.model.nodes import Shape
from volumen.model.tree import world_of
from volumen.outline.lines import line_of
from volumen.outline.outlines import outline
from volumen.shading.round_mesh import ROUND

_TIPS = (
    "A tube follows the line of the outline, or lies over its inside",
    "A mesh is nearer to the surface; a gradient stays a gradient in SVG",
)


def lit_body(slot: IngredientSlot) -> tuple[Body, Shape, Path, Light, Affine] | None:
    """The card's body on the first selected shape: its outline, its lamps and its place."""
    i, node = slot.ingredient, slot.session.first
    if not isinstance(i, Body) or not isinstance(node, Shape):
        return None
    document = slot.session.document
    world = world_of(document, node.id)
    return i, node, outline(node, world), light_at(document, node.id), world


def truth_row(slot: IngredientSlot) -> QHBoxLayout:
    """How true the paint of a body is to its surface, and the way to a mesh or back."""
    row, label, offer = QHBoxLayout(), QLabel(), QPushButton()
    label.setStyleSheet(f"color: {theme.SOFT_INK}")
    label.setWordWrap(True)
    label.setToolTip("Mean colour difference (CIEDE2000) between what is painted and the body's own surface")
    offer.setObjectName("small")
    row.addWidget(label, 1)
    row.addWidget(offer)

    def turn() -> None:
        i = slot.ingredient
        if isinstance(i, Body) and i.kind == "tube":
            slot.change("tube over the inside" if i.along else "tube along the line", along=not i.along)
        elif isinstance(i, Body):
            slot.change("gradient for a body" if i.mesh else "mesh for a body", mesh=not i.mesh)

    def show() -> None:
        words, offered = _truth_words(slot)
        label.setText(words)
        offer.setText(offered)
        offer.setVisible(bool(offered))
        offer.setToolTip(_TIPS["mesh" in offered or "gradient" in offered])

    offer.clicked.connect(turn)
    slot.updates.append(show)
    return row


def _truth_words(slot: IngredientSlot) -> tuple[str, str]:
    """What is said of the truth, and what is offered, if anything."""
    lit = lit_body(slot)
    if lit is None:
        return "", ""
    i, node, path = lit[:3]
    if i.kind == "tube" and line_of(node, path, replace(i, along=True)) is not None:
        plain = line_of(node, path, replace(i, along=False))
        way = "" if plain is not None else "over the inside" if i.along else "along the line"
        return "a mesh along the line" if i.along or plain is not None else "exact", way
    found = truth_of_body(*lit)
    offer = "" if i.kind not in ROUND else "as a gradient" if i.mesh else "as a mesh"
    if found is None:
        words = "exact" if i.kind in ("tube", "fold") else "a mesh" if i.kind in ("cushion", "slab") else ""
        return words, offer if i.mesh else ""
    if i.mesh and i.kind in ROUND:
        return f"a mesh, true to {found.mean:.1f}", offer
    if found.holds:
        return f"true to {found.mean:.1f}", ""
    return f"true to {found.mean:.1f}: {why_untrue(*lit)}", offer
