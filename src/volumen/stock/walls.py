"""What stock hangs on: plaster, boards, bricks. Each gives heights (pixels) and colours (encoded)."""

from __future__ import annotations

import numpy as np

from volumen.stock.fields import Field, chance, grid, mix, noise, rgb, step


def plaster(height: int, width: int, colour: str, seed: int) -> tuple[Field, Field]:
    """Rough plaster, a little uneven in tone."""
    heights = noise(height, width, 60, seed) * 1.2 + noise(height, width, 7, seed + 1) * 0.22
    tone = 1 + 0.018 * noise(height, width, 160, seed + 2) + 0.012 * noise(height, width, 3, seed + 3, 1)
    return heights, np.clip(rgb(colour) * tone[..., None], 0, 1)


def boards(height: int, width: int, s: float, colour: str, seed: int) -> tuple[Field, Field]:
    """Upright painted boards, worn to the wood in places."""
    x, _ = grid(height, width)
    wide = 116 * s
    board = np.floor((x + 40 * s) / wide)
    inside = (x + 40 * s) / wide - board
    tone = chance(64, seed)[board.astype(int) % 64]
    grain = noise(height, width, 5 * s, seed + 1, 3, 0.6, aspect=26)
    fine = noise(height, width, 2 * s, seed + 2, 2, 0.6, aspect=40)
    gap = np.minimum(inside, 1 - inside) * wide
    heights = 5 * s * step(0, 4 * s, gap) + tone * 0.7 * s + grain * 0.38 * s + fine * 0.16 * s
    worn = step(0.85, 1.6, grain * 0.6 + noise(height, width, 46 * s, seed + 4, aspect=2.2) * 0.75)
    paint = np.clip(rgb(colour) * (1 + 0.03 * tone + 0.035 * grain + 0.02 * fine)[..., None], 0, 1)
    wood = np.clip(rgb("#9b8468") * (1 + 0.10 * grain + 0.06 * fine)[..., None], 0, 1)
    colours = mix(paint, wood, worn) * (1 - 0.55 * step(3 * s, 0, gap))[..., None]
    return np.asarray(heights - worn * 0.8 * s, np.float32), colours


def bricks(height: int, width: int, s: float, seed: int) -> tuple[Field, Field]:
    """A brick wall painted over, with chips."""
    x, y = grid(height, width)
    x = x + noise(height, width, 40 * s, seed, 2) * 1.3 * s
    y = y + noise(height, width, 40 * s, seed + 1, 2) * 1.3 * s
    high, wide = 46 * s, 132 * s
    row = np.floor(y / high)
    column = np.floor(x / wide + 0.5 * (row % 2))
    fx, fy = x / wide + 0.5 * (row % 2) - column, y / high - row
    each = chance(4096, seed)[(column * 37 + row * 101).astype(int) % 4096]
    rough = noise(height, width, 10 * s, seed + 2, 4, 0.62)
    edge = np.minimum(np.minimum(fx, 1 - fx) * wide, np.minimum(fy, 1 - fy) * high) - 3.2 * s + rough * 0.9 * s
    brick = step(-1.5 * s, 2.4 * s, edge)
    pits = np.maximum(noise(height, width, 5 * s, seed + 3) - 1.1, 0)
    heights = brick * (4.5 + 0.9 * each) * s + rough * mix(0.75, 0.5, brick) * s - pits * 1.6 * s * brick
    paint = rgb("#d5d0c4") * (1 + 0.022 * each * brick + 0.018 * rough)[..., None]
    chips = step(1.25, 1.7, noise(height, width, 30 * s, seed + 4, 4, 0.6) + 0.35 * rough) * brick
    colours = mix(paint, rgb("#a5654c") * (1 + 0.08 * rough + 0.06 * each)[..., None], chips * 0.85)
    return np.asarray(heights, np.float32), np.clip(mix(colours * 0.9, colours, brick), 0, 1)
