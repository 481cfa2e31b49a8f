"""The bodies of a whole sheet, worked out in one call when its lamps have changed.

A lamp that turns changes all of them at once; one by one they would take most of a frame.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from volumen.compose.bodies_on import asked_of
from volumen.compose.light import Light, own_light
from volumen.geometry.affine import Affine, multiply
from volumen.model.ingredients import Body
from volumen.model.nodes import Document, Node, Shape
from volumen.outline.making import shown_children
from volumen.outline.outlines import outline
from volumen.picture.stopping import Stop, raise_if
from volumen.shading.bodies import MESHES, Asked, bodies_paints

_AT_ONCE = 500  # gradients: some 50 ms


def prepare_bodies(document: Document, light: Light, stop: Stop | None = None) -> None:
    """Work out the gradients of the bodies on all shapes, so that each is known when its shape is composed.

    ``stop`` is asked between some hundreds; when it says so, Stopped is raised.
    """
    root = document.root
    asked = (a for a in _asked(root, root.transform, light) if a.kind not in MESHES and not a.mesh)
    while some := list(islice(asked, _AT_ONCE)):
        bodies_paints(some)
        raise_if(stop)


def _asked(parent: Node, world: Affine, light: Light) -> Iterator[Asked]:
    for node in shown_children(parent):
        if not node.visible:
            continue
        own = own_light(node, light) if node.unlit or node.own_lamp is not None else light
        place = multiply(world, node.transform)
        if isinstance(node, Shape) and not own.flat:
            for i in node.recipe:
                if isinstance(i, Body) and i.on:
                    yield from asked_of(i, node, outline(node, place), own, place)
        if node.children:
            yield from _asked(node, place, own)
