"""Outlines for benchmarks and tests, made from a random generator: hard pairs for booleans among them."""

from __future__ import annotations

import math

import numpy as np

from volumen.geometry.affine import Floats, rotation, translation
from volumen.geometry.curve import smooth_through
from volumen.geometry.path import Contour, Path
from volumen.geometry.primitives import cloud, ellipse, rectangle

KINDS = ("free", "turned circle", "1e-6", "1e-3", "same", "clouds", "tangled", "tangent", "edges")


def smooth_closed(points: Floats) -> Path:
    """A smooth closed path through points (n, 2)."""
    return Path((smooth_through(points),))


def blob(rng: np.random.Generator, cx: float = 150.0, cy: float = 150.0, r: float = 90.0, n: int = 40) -> Path:
    """A wavy closed shape of ``n`` points."""
    t = np.linspace(0, 2 * np.pi, n, endpoint=False)
    rr = r * (1 + 0.25 * np.sin(3 * t + rng.uniform(0, 6)) + 0.1 * np.sin(5 * t + rng.uniform(0, 6)))
    return smooth_closed(np.stack([cx + rr * np.cos(t), cy + rr * np.sin(t)], axis=1))


def tangled(rng: np.random.Generator, cx: float, cy: float, r: float = 120.0) -> Path:
    """A path that crosses itself many times, of either fill rule."""
    p = rng.uniform(-r, r, (27, 2)) + [cx, cy]
    return Path((Contour(np.concatenate([p, p[:1]]), True),), bool(rng.integers(2)))


def hard_pair(rng: np.random.Generator) -> tuple[str, Path, Path]:
    """One of the pairs that boolean engines stumble over, and its kind."""
    kind = str(rng.choice(KINDS))
    base = blob(rng)
    if kind == "turned circle":
        disc = ellipse(150, 150, 100, 100)
        return kind, disc, disc.transformed(rotation(rng.uniform(0, 90), (150, 150)))
    if kind in ("1e-6", "1e-3"):
        d = float(kind)
        return kind, base, base.transformed(translation(d, -0.7 * d))
    if kind == "same":
        return kind, base, base
    if kind == "clouds":
        x, y = rng.uniform(0, 120, 2)
        return kind, cloud(50, 50, 200, 200, 60, 1), cloud(x, y, 200, 180, 60, 1)
    if kind == "tangled":
        return kind, tangled(rng, 150, 150), tangled(rng, 170, 160)
    if kind == "tangent":
        r, a = rng.uniform(10, 90), rng.uniform(0, 6.28)
        away = 60 + r * rng.choice([1, -1])
        return kind, ellipse(100, 150, 60, 60), ellipse(100 + away * math.cos(a), 150 + away * math.sin(a), r, r)
    if kind == "edges":
        w, h = rng.uniform(20, 150, 2)
        return kind, rectangle(50, 50, 100, 100), rectangle(rng.choice([50, 150, 20]), 50, w, h)
    return kind, base, blob(rng, *rng.uniform(100, 220, 2))
