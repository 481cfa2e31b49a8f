"""How a surface takes light. A material is data: it bends the tonal ramp of a body of any base colour."""

from __future__ import annotations

import msgspec


class Material(msgspec.Struct, frozen=True):
    """All values are relative to the base colour, in OKLCH.

    ``contrast``: how deep the core shadow goes (1 is black). ``lighten``: how far the lit side rises to white.
    ``hue_shift``: degrees that shadows turn (the lit side turns half as far the other way). ``chroma``: gain of
    chroma in the shadow. ``gloss``, ``gloss_size``: strength and width of the highlight. ``tinted_gloss``: 0
    white highlight, 1 highlight of the base colour (metals). ``edge``: light along the far rim.
    ``bands``: strength of the dark and bright reflections that polished metal shows.
    """

    name: str
    contrast: float
    lighten: float
    hue_shift: float
    chroma: float
    gloss: float
    gloss_size: float
    tinted_gloss: float
    edge: float
    bands: float = 0.0


MATERIALS: dict[str, Material] = {
    m.name: m
    for m in (
        Material("paper", 0.42, 0.16, 8, 0.10, 0.0, 0.5, 0.0, 0.02),
        Material("clay", 0.60, 0.22, -10, 0.15, 0.08, 0.5, 0.2, 0.06),
        Material("enamel", 0.66, 0.22, -8, 0.20, 0.95, 0.13, 0.0, 0.14),
        Material("brass", 0.78, 0.34, -22, 0.22, 0.95, 0.20, 0.30, 0.16, 0.10),
        Material("steel", 0.76, 0.34, -6, 0.05, 0.9, 0.20, 0.15, 0.22, 0.30),
        Material("glass", 0.68, 0.34, 8, 0.05, 1.0, 0.09, 0.0, 0.34),
        Material("wax", 0.44, 0.20, -20, 0.30, 0.35, 0.30, 0.1, 0.16),
    )
}


def material(name: str) -> Material:
    """The material of that name; an unknown name falls back to clay, so that a newer file still draws."""
    return MATERIALS.get(name, MATERIALS["clay"])
