"""How a surface takes light. A material is data: it bends the tonal ramp of a body of any base colour."""

from __future__ import annotations

import msgspec


class Material(msgspec.Struct, frozen=True):
    """All values are relative to the base colour, in OKLCH.

    ``contrast``: how deep the core shadow goes (1 is black). ``lighten``: how far the lit side rises to white.
    ``hue_shift``: degrees that shadows turn (the lit side turns half as far the other way). ``chroma``: gain of
    chroma in the shadow. ``gloss``, ``gloss_size``: strength and width of the highlight. ``tinted_gloss``: 0
    white highlight, 1 highlight of the base colour (metals). ``edge``: light along the far rim.
    ``bands``: strength of the dark and bright reflections that polished metal shows. ``grain``: of the surface, as the
    standard deviation of lightness, each ``grain_size`` units wide. ``glow``: light that comes out again on the far
    side of what lets light through. ``clear``: how much of the light goes through it in its colour, so that its shadow
    is coloured and lighter.
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
    grain: float = 0.0
    grain_size: float = 1.5
    glow: float = 0.0
    clear: float = 0.0


MATERIALS: dict[str, Material] = {
    m.name: m
    for m in (
        Material("paper", 0.42, 0.16, 8, 0.10, 0.0, 0.5, 0.0, 0.02),
        Material("clay", 0.60, 0.22, -10, 0.15, 0.08, 0.5, 0.2, 0.06),
        Material("enamel", 0.66, 0.22, -8, 0.20, 0.95, 0.13, 0.0, 0.14),
        Material("brass", 0.78, 0.34, -22, 0.22, 0.95, 0.20, 0.30, 0.16, 0.10),
        Material("steel", 0.76, 0.34, -6, 0.05, 0.9, 0.20, 0.15, 0.22, 0.30),
        Material("glass", 0.68, 0.34, 8, 0.05, 1.0, 0.09, 0.0, 0.34, clear=0.6),
        Material("wax", 0.44, 0.20, -20, 0.30, 0.35, 0.30, 0.1, 0.16),
        Material("plastic", 0.58, 0.20, -6, 0.18, 0.75, 0.22, 0.0, 0.08),
        Material("rubber", 0.66, 0.10, -4, 0.05, 0.18, 0.55, 0.0, 0.03),
        Material("copper", 0.76, 0.30, -16, 0.26, 0.92, 0.19, 0.55, 0.18, 0.16),
        Material("chrome", 0.86, 0.42, -4, 0.0, 1.0, 0.11, 0.0, 0.30, 0.55),
        Material("sea glass", 0.40, 0.26, 12, 0.22, 0.40, 0.32, 0.05, 0.22, 0.0, 0.012, 1.0, 0.55, 0.45),
        Material("stone", 0.62, 0.14, 6, 0.05, 0.0, 0.5, 0.0, 0.03, 0.0, 0.055, 1.6),
        Material("wood", 0.56, 0.14, -12, 0.16, 0.10, 0.45, 0.3, 0.04, 0.0, 0.04, 2.6),
        Material("cloth", 0.50, 0.10, -6, 0.12, 0.0, 0.5, 0.0, 0.10, 0.0, 0.035, 1.0),
    )
}


def material(name: str, own: tuple[Material, ...] = ()) -> Material:
    """The material of that name, among a document's own first; an unknown name falls back to clay, so that a newer
    file still draws."""
    return next((m for m in own if m.name == name), None) or MATERIALS.get(name, MATERIALS["clay"])
