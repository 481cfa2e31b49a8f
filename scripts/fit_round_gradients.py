"""Fit the table of ``shading/round_gradients.py``: squash, focus and drift of a ball's gradient by the lamp's height.

``python scripts/fit_round_gradients.py`` prints the table and what it is worth, in half a minute. One table for all
materials and roundness: at each height the numbers are sought that leave the least of the surface's own tones
unexplained by one row of stops, in OKLab, for dull clay, enamel and brass at full and at half roundness. Bends of the
run over the heights are charged, as many numbers are nearly as good and a lamp shall move without jumps.
"""

from __future__ import annotations

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import minimize

from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.geometry.affine import IDENTITY
from volumen.shading.bodies import look_of
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import material
from volumen.shading.paint import colour
from volumen.shading.round_gradients import Lines, least_squares, stops_at, sunflower
from volumen.shading.surfaces import ball, lean_of
from volumen.shading.tones import Look, lighting, lit

HEIGHTS = (5, 10, 15, 20, 25, 30, 40, 50, 60, 70, 80, 90)
MATERIALS, ROUNDNESS = ("clay", "enamel", "brass"), (1.0, 0.5)
_BEND = 5e-4  # the charge for a number that is 1 away from the run of its neighbours
_SWEEPS = 6
_PLACES = sunflower(500)


def looks() -> list[Look]:
    """Balls without highlights, which have gradients of their own."""
    return [look_of(colour("#2b8577"), material(n), 1.0, rho, 0.4).dull for n in MATERIALS for rho in ROUNDNESS]


def unexplained(numbers: Floats, truths: list[tuple[Look, Floats]]) -> float:
    """The mean squared distance in OKLab between tones and the best stops along a family of lines."""
    squash, focus, drift = numbers
    if not (0.2 < squash <= 1.0 and abs(drift) < 0.97 and focus >= 0):
        return 1.0
    total = 0.0
    for look, tones in truths:
        at = np.array([[focus / (look.roundness * squash), 0.0]])
        lines = Lines(np.diag([1 / squash, 1.0])[None], at, np.array([[drift, 0.0]]))
        radius = lines.radius(_PLACES)
        share = (radius - radius.min()) / np.ptp(radius)
        total += float(((stops_at(share, least_squares(share, tones[None])) - tones) ** 2).sum(axis=-1).mean())
    return total / len(truths)


def main() -> None:
    truths = [tones_at(h) for h in HEIGHTS]
    table = np.array([[0.3 + 0.7 * h / 90, 1.2 * (1 - h / 90), -0.6 * (1 - h / 90)] for h in HEIGHTS])
    for _ in range(_SWEEPS):
        for k in range(len(HEIGHTS) - 1):  # an overhead lamp has circles about the middle
            table[k] = _fitted(table, k, truths[k])
    for height, row, tones in zip(HEIGHTS, table, truths, strict=True):
        left = unexplained(row, tones) ** 0.5
        print(f"[{height}, {', '.join(f'{v:.3f}' for v in row)}],  left {left * 100:.2f} hundredths of OKLab")


def tones_at(height: float) -> list[tuple[Look, Floats]]:
    """The tones of all looks under a lamp at that height, at the places of the disc."""
    light = lighting(Lights(Lamp(90, height)), IDENTITY)
    out = []
    for look in looks():
        normals, s = ball(_PLACES, np.eye(2), look.roundness, lean_of(light))
        out.append((look, oklab.from_srgb(lit(look, light, normals, s))))
    return out


def _fitted(table: Floats, k: int, truths: list[tuple[Look, Floats]]) -> Floats:
    """The best numbers at a height, held to a smooth run through those of its neighbours."""
    others = [i for i in range(len(HEIGHTS)) if i != k][max(k - 2, 0) : k + 2]
    run = PchipInterpolator([HEIGHTS[i] for i in others], table[others], extrapolate=True)(HEIGHTS[k])

    def charged(v: Floats) -> float:
        return unexplained(v, truths) + _BEND * float(((v - run) ** 2).sum())

    start = np.clip(table[k], [0.25, 0.0, -0.95], [1.0, 3.0, 0.0])
    return np.asarray(minimize(charged, start, method="Nelder-Mead", options={"xatol": 1e-4, "fatol": 1e-9}).x)


if __name__ == "__main__":
    main()
