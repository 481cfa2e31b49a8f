"""Where a chosen colour goes: to the mesh points in hand, the stop in hand, or the fills of what is selected."""

from __future__ import annotations

import msgspec

from volumen.app.state.session import Session
from volumen.edit import gradients, palette, recipes
from volumen.edit.meshes import all_mesh_points, with_mesh_colour
from volumen.edit.placing import laid, own_box
from volumen.model.ingredients import Body, Fill, Line
from volumen.model.nodes import Document, Group, Node, SavedGradient, Shape
from volumen.model.tree import update_nodes, walk
from volumen.outline.outlines import outline
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
    """The document with a colour where it belongs; unchanged if nothing takes it.

    That is the mesh points in hand; the stop of the open gradient; else the topmost fill of all that is selected, and
    of what selected groups hold: a mesh takes it in all its points, a line on its own in the line.
    """
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
        if isinstance(i, Fill | Line) and not isinstance(i.paint, MeshPaint):
            plain = Solid(colour, swatch, i.paint.grain)
            return recipes.edit_alike(document, session.selection, session.active, i, paint=plain)
    return update_nodes(document, shapes_in(session), lambda n: _in_colour(n, colour, swatch))


def _in_colour(node: Node, colour: Colour, swatch: int | None) -> Node:
    """A shape whose topmost paint is a colour; a mesh keeps its net."""
    if not isinstance(node, Shape):
        return node
    paint = gradients.paint_of(node)
    if isinstance(paint, MeshPaint):
        return gradients.with_paint(node, with_mesh_colour(paint, all_mesh_points(paint), colour))
    lines = [k for k, i in enumerate(node.recipe) if isinstance(i, Line) and i.on]
    if paint is None and lines and not any(isinstance(i, Body) and i.on for i in node.recipe):
        k = lines[-1]
        line = replace(node.recipe[k], paint=Solid(colour, swatch))
        return replace(node, recipe=(*node.recipe[:k], line, *node.recipe[k + 1 :]))
    return gradients.with_paint(node, Solid(colour, swatch, paint.grain if paint is not None else None))


def shapes_in(session: Session) -> list[int]:
    """The selected shapes, and those in the selected groups."""
    found = [n for node in session.nodes for n in (walk(node) if isinstance(node, Group) else (node,))]
    return list(dict.fromkeys(n.id for n in found if isinstance(n, Shape)))


def painted(session: Session, paint: Paint, source: Node) -> Document:
    """All selected shapes with their topmost fill in another object's paint, laid out in the box of each."""
    box = own_box(source)

    def change(node: Node) -> Node:
        if not isinstance(node, Shape) or node.id == source.id:
            return node
        return gradients.with_paint(node, laid(paint, box, own_box(node)))

    return update_nodes(session.document, shapes_in(session), change)


def give_colour(session: Session, colour: Colour, swatch: int | None = None) -> None:
    """One step of undo: what is selected takes a colour."""
    if not session.selection:
        session.say("select what shall take the colour first")
        return
    mesh = mesh_of(session)
    document = coloured(session, colour, swatch)
    if document is session.document:
        session.say("nothing that is selected takes a colour")
        return
    session.apply("give colour", document)
    if mesh is not None and not session.mesh_points and mesh_of(session) is not None:
        session.say("all points of the mesh took the colour; choose some with the Mesh tool to colour them alone")


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

    return update_nodes(session.document, shapes_in(session), change)


def give_gradient(session: Session, saved: SavedGradient) -> None:
    """Selected shapes take a gradient of the palette, linked."""
    if not session.selection:
        session.say("select what shall take the gradient first")
        return
    session.apply("give gradient", graded(session, saved.stops, saved.oklab, saved.id))
