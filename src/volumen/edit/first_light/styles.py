"""The styles of first light, as data: what things are made of, how their edges are, how high they lie."""

from __future__ import annotations

from typing import NamedTuple

from volumen.shading.paint import ReliefProfile


class Style(NamedTuple):
    """One way to light a drawing.

    ``material`` is that of bodies, ``cool`` another one for cold and grey colours; without bodies everything is a
    sheet. ``edge`` is the depth of slivers along edges, in thicknesses; ``light`` and ``shade`` their opacities.
    ``relief`` is the profile of what has no body, ``rise`` its height, None for none. ``shadow`` is the
    opacity of cast shadows, ``lift`` how high things lie, ``glow`` light that shines within, ``grain`` of the surface.
    """

    name: str
    material: str = ""
    cool: str = ""
    strength: float = 0.8
    roundness: float = 0.9
    edge: float = 0.0
    light: float = 0.0
    shade: float = 0.0
    relief: ReliefProfile | None = None
    rise: float = 0.5
    gloss: float = 0.1
    shadow: float = 0.5
    lift: float = 1.0
    glow: float = 0.0
    grain: float = 0.0


STYLES: tuple[Style, ...] = (
    Style("cut paper", edge=0.05, light=0.4, shade=0.12, shadow=0.6, lift=1.0),
    Style("enamel", "enamel", strength=0.75, relief="round", gloss=0.3, shadow=0.5, lift=0.8),
    Style("soft clay", "clay", strength=0.85, roundness=1.0, relief="round", rise=0.6, gloss=0.0, shadow=0.5, lift=1.2),
    Style("brass and steel", "brass", "steel", strength=0.7, relief="flat", rise=0.6, gloss=0.7, shadow=0.55, lift=0.8),
    Style("glass", "glass", strength=0.6, edge=0.04, light=0.6, shade=0.25, shadow=0.3, lift=0.6, glow=0.35),
    Style("wax", "wax", roundness=1.0, relief="round", rise=0.45, gloss=0.15, shadow=0.4, lift=0.7, glow=0.15),
    Style("carved stone", relief="flat", rise=0.7, gloss=0.0, shadow=0.35, lift=0.25, grain=0.05),
    Style("woven cloth", "cloth", strength=0.6, roundness=0.7, edge=0.06, light=0.14, shade=0.2, shadow=0.45, lift=0.5),
)  # fmt: skip


def style_named(name: str) -> Style:
    """The style of a name; the first for one that is not known, so that a newer file still opens."""
    return next((s for s in STYLES if s.name == name), STYLES[0])
