"""Where a chosen colour goes: to the mesh points in hand, the stop in hand, or the fills of what is selected."""

from __future__ import annotations

import msgspec

from volumen.app.session import Session
from volumen.build.outline import outline
from volumen.edit import gradients, palette, recipes
from volumen.edit.meshes import with_mesh_colour
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Document, Node, SavedGradient, Shape
from volumen.model.tree import update_nodes
from volumen.shading.paint import GRADIENTS, Colour, Linear, MeshPaint, Paint, Solid, Stop

replace = msgspec.structs.replace


def mesh_of(session: Session) -> tuple[Shape, int, MeshPaint] | None:
    """The mesh of the only selected shape: its topmost one, with the place of its ingredient."""
    shape = session.only_shape
    if shape is None:
        return None
    for k in range(len(shape.recipe) - 1, -1, -1):
        i = shape.recipe[k]
        if isinstance(i, Fill) and i.on and isinstance(i.paint, MeshPaint):
            return shape, k, i.paint
    return None


def coloured(session: Session, colour: Colour, swatch: int | None = None) -> Document:
    """The document with a colour where it belongs; unchanged if nothing takes it."""
    document = session.document
    found = mesh_of(session)
    if found is not None and session.mesh_points:
        shape, index, paint = found
        made = with_mesh_colour(paint, session.mesh_points, colour)
        return recipes.edit_alike(document, [shape.id], index, shape.recipe[index], paint=made)
    first = session.first
    if first is not None and session.active is not None and session.active < len(first.recipe):
        i = first.recipe[session.active]
        if isinstance(i, Fill | Line) and isinstance(i.paint, GRADIENTS) and i.paint.stops:
            stops = list(i.paint.stops)
            at = min(session.active_stop, len(stops) - 1)
            stops[at] = replace(stops[at], colour=colour, swatch=swatch)
            changed = replace(i.paint, stops=tuple(stops))
            document = recipes.edit_alike(document, session.selection, session.active, i, paint=changed)
            return palette.follow_link(document, changed)
        if isinstance(i, Fill | Line):
            return recipes.edit_alike(document, session.selection, session.active, i, paint=Solid(colour, swatch))
    return painted(session, Solid(colour, swatch))


def painted(session: Session, paint: Paint) -> Document:
    """All selected shapes with their topmost fill in a paint."""
    return update_nodes(
        session.document, session.selection, lambda n: gradients.with_paint(n, paint) if isinstance(n, Shape) else n
    )


def give_colour(session: Session, colour: Colour, swatch: int | None = None) -> None:
    """One step of undo: what is selected takes a colour."""
    if not session.selection:
        session.say("select what shall take the colour first")
        return
    session.apply("give colour", coloured(session, colour, swatch))


def graded(session: Session, stops: tuple[Stop, ...], oklab: bool = True, link: int | None = None) -> Document:
    """The document with a gradient in all selected shapes; one that they have keeps its place."""

    def change(node: Node) -> Node:
        if not isinstance(node, Shape):
            return node
        paint = gradients.paint_of(node)
        if isinstance(paint, GRADIENTS):
            return gradients.with_paint(node, replace(paint, stops=stops, oklab=oklab, link=link))
        l, t, r, b = outline(node).bounds() or (0.0, 0.0, 100.0, 100.0)
        return gradients.with_paint(node, Linear(stops, ((l + r) / 2, t), ((l + r) / 2, b), oklab, link=link))

    return update_nodes(session.document, session.selection, change)


def give_gradient(session: Session, saved: SavedGradient) -> None:
    """Selected shapes take a gradient of the palette, linked."""
    if not session.selection:
        session.say("select what shall take the gradient first")
        return
    session.apply("give gradient", graded(session, saved.stops, saved.oklab, saved.id))
