"""How true the plain paints of bodies are to their surfaces: every body, material and lamp."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from volumen.bench.measuring import Row
from volumen.geometry.affine import IDENTITY
from volumen.geometry.primitives import ellipse
from volumen.shading.bodies import look_of
from volumen.shading.body_truth import MOST_MEAN, MOST_P95, truth_of
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import MATERIALS
from volumen.shading.paint import colour
from volumen.shading.plain_bodies import BodyKind

_KINDS: tuple[BodyKind, ...] = ("ball", "dish", "cone")
_HEIGHTS = (0, 5, 10, 20, 30, 45, 60, 80, 90)
_BEARINGS = (0, 100, 322)


def bodies(quick: bool = False) -> Iterator[Row]:
    """The errors of bodies on a circle over all lamps, material by material; of long balls the worst of all."""
    for kind in _KINDS:
        for name in ("clay", "enamel", "brass") if quick else MATERIALS:
            yield _row(f"{kind}, {name}", kind, name, (40.0, 40.0))
    for name in ("brass", "steel", "chrome"):
        yield _row(f"ball as a mesh, {name}", "ball", name, (40.0, 40.0), mesh=True)
    if not quick:
        for long in (1.25, 1.5, 2.0):
            yield _row(f"ball {long} times as long, brass", "ball", "brass", (40.0 * long, 40.0))


def _row(what: str, kind: BodyKind, name: str, radii: tuple[float, float], mesh: bool = False) -> Row:
    made_of = replace(MATERIALS[name], grain=0.0)  # grain is no error
    look = look_of(colour("#2b8577"), made_of, 1.0, 1.0, 0.4)
    path = ellipse(0.0, 0.0, *radii)
    lamps = [Lights(Lamp(b, h)) for h in _HEIGHTS for b in _BEARINGS]
    found = [t for lamp in lamps if (t := truth_of(kind, path, look, lamp, IDENTITY, mesh=mesh)) is not None]
    mean, worst = sum(t.mean for t in found) / len(found), max(t.mean for t in found)
    value = f"mean {mean:.2f}, worst lamp {worst:.2f}, 95th {max(t.p95 for t in found):.1f}"
    goal = f"CIEDE2000 <= {MOST_MEAN} and <= {MOST_P95}"
    return Row(f"body: {what}, {len(found)} lamps", value, "its surface, point by point", goal)
