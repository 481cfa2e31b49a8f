"""The light that shines on a node, told in one place for pictures, freezing, cards and the light check."""

from __future__ import annotations

from dataclasses import dataclass
from dataclasses import replace as with_changes

import msgspec

from volumen.model.nodes import Document, Node
from volumen.model.tree import chain_to
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import Material

replace = msgspec.structs.replace


@dataclass(frozen=True, slots=True)
class Light:
    """What a recipe needs to know of its surroundings. ``by_height`` says that lifts add up."""

    lights: Lights
    flat: bool = False
    materials: tuple[Material, ...] = ()
    by_height: bool = False

    @property
    def lamp(self) -> Lamp:
        """The key lamp, from which directions are taken."""
        return self.lights.key


def own_light(node: Node, around: Light) -> Light:
    """The light on something that does not follow the lamps around it."""
    if node.unlit:
        return with_changes(around, flat=True)
    assert node.own_lamp is not None
    return with_changes(around, lights=replace(around.lights, key=node.own_lamp))


def light_of(document: Document, flat: bool = False) -> Light:
    """The surroundings of a document's recipes."""
    return Light(document.lights, flat, document.materials, document.lifts_add_up)


def light_at(document: Document, node_id: int) -> Light:
    """The light that shines on one node: the document's, but for lamps of its own and of what it is in."""
    light = light_of(document)
    for node in chain_to(document, node_id):
        if (node.unlit or node.own_lamp is not None) and not light.flat:
            light = own_light(node, light)
    return light
