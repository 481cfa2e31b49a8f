"""Variants: the same selection in many ways, to choose among by eye."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import msgspec

from volumen.edit import lights, looks, recipes
from volumen.edit.combined_looks import seen_of
from volumen.edit.first_light.light import last_asked, lit, prepared
from volumen.edit.first_light.styles import STYLES
from volumen.edit.objects import set_fields
from volumen.model.ingredients import BLEND_MODES, Adjust, Body
from volumen.model.nodes import Document, Group, Node, Shape
from volumen.model.tree import find, update_nodes
from volumen.picture.stopping import Stop
from volumen.shading.materials import MATERIALS

Variant = tuple[str, Document]
replace = msgspec.structs.replace


def blend_modes(document: Document, ids: Sequence[int], index: int | None = None) -> list[Variant]:
    """All sixteen blend modes: of one ingredient, or of the objects themselves."""
    return [(mode, _with(document, ids, index, blend=mode)) for mode in BLEND_MODES]


def opacities(document: Document, ids: Sequence[int], index: int | None = None) -> list[Variant]:
    """Opacities in steps of ten percent."""
    return [(f"{k * 10} %", _with(document, ids, index, opacity=k / 10)) for k in range(1, 11)]


def _with(document: Document, ids: Sequence[int], index: int | None, **fields: object) -> Document:
    node = find(document, ids[0])
    if node is not None and index is not None and index < len(node.recipe):
        i = node.recipe[index]
        if all(hasattr(i, name) for name in fields):
            return recipes.edit_alike(document, ids, index, i, on_sheet=False, **fields)
    return set_fields(document, ids, **fields)


def materials(document: Document, ids: Sequence[int], index: int | None = None) -> list[Variant]:
    """Every material, own ones first; what has no body yet becomes a cushion."""
    names = [*(m.name for m in document.materials), *MATERIALS]
    return [(name, _with_material(document, ids, name)) for name in dict.fromkeys(names)]


def _with_material(document: Document, ids: Iterable[int], name: str) -> Document:
    def change(node: Node) -> Node:
        if isinstance(node, Shape) and not any(isinstance(i, Body) for i in node.recipe):
            return replace(node, recipe=(*node.recipe, Body("cushion", name)))
        return replace(node, recipe=tuple(replace(i, material=name) if isinstance(i, Body) else i for i in node.recipe))

    return update_nodes(document, _to_be_bodies(document, ids), change)


def _to_be_bodies(document: Document, ids: Iterable[int]) -> list[int]:
    """What takes a material: of a group that is one body itself, else all shapes in it that are seen."""
    out: list[int] = []
    for node in (n for i in ids if (n := find(document, i)) is not None):
        whole = not isinstance(node, Group) or any(isinstance(i, Body) for i in node.recipe)
        out += [node.id] if whole else [n.id for n in seen_of(node) if isinstance(n, Shape)]
    return out


def light_settings(document: Document, ids: Sequence[int], index: int | None = None) -> list[Variant]:
    """The whole sheet under every saved light."""
    return [(s.name, document.with_lights(s.lights)) for s in lights.lamp_sets(document)]


def tints(document: Document, ids: Sequence[int], index: int | None = None) -> list[Variant]:
    """Colour variants: the hue of all turned in twelve steps, live."""
    return [(f"{turn:+d}°", _tinted(document, ids, turn)) for turn in range(-150, 181, 30)]


def _tinted(document: Document, ids: Iterable[int], turn: int) -> Document:
    def change(node: Node) -> Node:
        rest = [i for i in node.recipe if not isinstance(i, Adjust)]
        old = next((i for i in node.recipe if isinstance(i, Adjust)), Adjust())
        return replace(node, recipe=(*rest, *([replace(old, hue=float(turn))] if turn else [])))

    return update_nodes(document, ids, change)


def look_presets(document: Document, ids: Sequence[int], index: int | None = None) -> list[Variant]:
    """The document's own looks and the ready ones."""
    return [(k.name, looks.give_look(document, ids, k)) for k in (*document.palette.looks, *looks.READY)]


def first_lights(
    document: Document, ids: Sequence[int], index: int | None = None, stop: Stop | None = None
) -> list[Variant]:  # fmt: skip
    """First light in every style on the selection, or on all where nothing is selected. Raises Stopped where ``stop``
    says so."""
    asked, ready = last_asked(document), prepared(document, ids, stop)
    return [(s.name, lit(ready, s.name, asked.depth, asked.softness, stop)) for s in STYLES]


KINDS: dict[str, Callable[[Document, Sequence[int], int | None], list[Variant]]] = {
    "blend modes": blend_modes,
    "opacity": opacities,
    "materials": materials,
    "looks": look_presets,
    "lights": light_settings,
    "tints": tints,
    "first light": first_lights,
}
