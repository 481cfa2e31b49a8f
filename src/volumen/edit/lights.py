"""Lights: ready settings, saved ones, own lamps."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from volumen.model.nodes import Document, LampSet, Node
from volumen.model.tree import chain_to, update_nodes
from volumen.shading.lamp import Ambient, Lamp, Lights
from volumen.shading.paint import colour

replace = msgspec.structs.replace
_WARM, _COOL = colour("#ffe2b8"), colour("#bcd6ff")
READY: tuple[LampSet, ...] = (
    LampSet("studio", Lights()),
    LampSet("morning", Lights(Lamp(68, 26, 1.0, 0.4, _WARM), None, None, Ambient(0.18, _COOL, colour("#d8c2a2")))),
    LampSet("noon", Lights(Lamp(350, 74, 1.05, 0.2), None, None, Ambient(0.15, colour("#e8f2ff"), colour("#cfc6b4")))),
    LampSet("evening", Lights(Lamp(282, 18, 0.95, 0.5, colour("#ffc58a")), Lamp(100, 30, 0.25, 0.3, _COOL))),
    LampSet("stage", Lights(Lamp(330, 52, 1.1, 0.08), None, Lamp(150, 12, 0.8, 0.1, colour("#ff9a78")))),
    LampSet(
        "overcast", Lights(Lamp(10, 66, 0.55, 1.1), None, None, Ambient(0.5, colour("#eef3f7"), colour("#dcdcd8")))
    ),
)


def save_lights(document: Document, name: str) -> Document:
    """Keep the lights of now under a name; one of that name is replaced."""
    rest = tuple(s for s in document.lamp_sets if s.name != name)
    return replace(document, lamp_sets=(*rest, LampSet(name, document.lights)))


def lamp_sets(document: Document) -> tuple[LampSet, ...]:
    """Ready settings and the document's own, the own ones first."""
    own = {s.name for s in document.lamp_sets}
    return (*document.lamp_sets, *(s for s in READY if s.name not in own))


def with_own_lamp(document: Document, ids: Iterable[int], lamp: Lamp | None, unlit: bool = False) -> Document:
    """Let objects have a lamp of their own, ignore all lamps, or follow the document's again (neither)."""
    return update_nodes(document, ids, lambda n: replace(n, own_lamp=lamp, unlit=unlit))


def whose_lamp(document: Document, ids: Iterable[int]) -> tuple[Node, ...]:
    """The nodes whose own lamps shine on all of some objects: themselves or what they are in; empty where the
    document's lamp, or none, shines on one of them."""
    found: dict[int, Node] = {}
    for node_id in ids:
        own = next((n for n in reversed(chain_to(document, node_id)) if n.unlit or n.own_lamp is not None), None)
        if own is None or own.unlit:
            return ()
        found[own.id] = own
    return tuple(found.values())


def lamp_words(owners: tuple[Node, ...]) -> str:
    """Whose lamp it is, in words."""
    return f"lamp of {owners[0].name if len(owners) == 1 else f'{len(owners)} objects'}"[:40] if owners else ""


def key_in_hand(document: Document, ids: Iterable[int]) -> Lamp:
    """The lamp that a selection's sun stands for: its own, else the document's."""
    owners = whose_lamp(document, ids)
    return owners[-1].own_lamp or document.lamp if owners else document.lamp


def with_key_in_hand(document: Document, ids: Iterable[int], lamp: Lamp) -> Document:
    """The document with that lamp changed."""
    owners = whose_lamp(document, ids)
    if owners:
        return with_own_lamp(document, [n.id for n in owners], lamp)
    return replace(document, lamp=lamp)
