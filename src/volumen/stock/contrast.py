"""How well each object of the artwork reads on stock: against what really lies beside it, lit as it is."""

from __future__ import annotations

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from volumen.colour.difference import cielab
from volumen.colour.relatives import LUMINANCE, luminance_contrast
from volumen.colour.srgb import from_linear
from volumen.stock.fields import Field
from volumen.stock.light import to_linear
from volumen.stock.scene import Layer, Slot

Labels = NDArray[np.int32]  # the object on top of each pixel; 0 none

_SKIP, _RING = 1.5, 5.0  # pixels from an edge that is softened, and as far as is looked
_NEAR = 9  # pixels over which a place beside an edge is averaged
_LEAST = 12  # pixels of a ring that say anything
_LOCAL = 10  # percentile of places along an edge that is told as the worst


class Reading(msgspec.Struct, frozen=True, array_like=True):
    """Of one object: the contrast ratio (WCAG 2) of its rim to what lies beside it, that of its worst tenth, and how
    far apart in lightness (CIE L*, 0..100) they are on the whole."""

    node: int
    ratio: float
    local: float
    lightness: float


def readings(picture: Field, layer: Layer, slot: Slot, labels: Labels) -> list[Reading]:
    """Readings of objects, worst first. ``picture`` (h, w, 3; encoded) is that of the stock with the artwork;
    ``labels`` belong to the artwork as it is fitted to the slot."""
    x0, y0, x1, y1 = slot.box
    margin = int(_RING) + 2
    left, top = layer.x + x0, layer.y + y0
    h, w = picture.shape[:2]
    cut = (max(left - margin, 0), max(top - margin, 0), min(layer.x + x1 + margin, w), min(layer.y + y1 + margin, h))
    light = to_linear(picture[cut[1] : cut[3], cut[0] : cut[2]]) @ LUMINANCE.astype(np.float32)
    there = np.zeros(light.shape, np.int32)
    mapped = cv2.remap(labels.astype(np.float32), slot.x, slot.y, cv2.INTER_NEAREST, borderMode=cv2.BORDER_CONSTANT)
    there[top - cut[1] : top - cut[1] + mapped.shape[0], left - cut[0] : left - cut[0] + mapped.shape[1]] = np.where(
        slot.mask > 0.5, mapped, 0
    )
    found = [_reading(int(node), there, light) for node in np.unique(there) if node]
    return sorted((r for r in found if r is not None), key=lambda r: r.local)


def _reading(node: int, labels: Labels, light: Field) -> Reading | None:
    ys, xs = np.nonzero(labels == node)
    pad = int(_RING) + 2
    y0, x0 = max(int(ys.min()) - pad, 0), max(int(xs.min()) - pad, 0)
    cut = np.s_[y0 : int(ys.max()) + pad, x0 : int(xs.max()) + pad]
    mine, seen = (labels[cut] == node).astype(np.uint8), light[cut]
    within = cv2.distanceTransform(mine, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    beyond = cv2.distanceTransform(1 - mine, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    skip = min(_SKIP, float(within.max()) - 0.5)  # thin strokes have no inside
    inner = (within > skip) & (within <= _RING)
    outer = (beyond > _SKIP) & (beyond <= _RING)
    if np.count_nonzero(inner) < _LEAST or np.count_nonzero(outer) < _LEAST:
        return None
    a, b = float(seen[inner].mean()), float(seen[outer].mean())
    beside = np.asarray(_averaged(seen, outer)[inner])
    own = np.asarray(_averaged(seen, inner)[inner])
    met = np.isfinite(beside) & np.isfinite(own)
    overall = float(luminance_contrast(a, b))
    local = float(np.percentile(luminance_contrast(own[met], beside[met]), _LOCAL)) if met.any() else overall
    return Reading(node, overall, local, abs(_lightness(a) - _lightness(b)))


def _averaged(values: Field, where: NDArray[np.bool_]) -> Field:
    """The mean of values near each place, of those places only; not a number where there are none."""
    size = (2 * _NEAR + 1, 2 * _NEAR + 1)
    share = cv2.blur(where.astype(np.float32), size)
    total = cv2.blur(np.where(where, values, 0).astype(np.float32), size)
    return np.where(share > 1e-4, total / np.maximum(share, 1e-4), np.nan)


def _lightness(luminance: float) -> float:
    """CIE L* of a grey."""
    return float(cielab(from_linear(np.full(3, luminance)))[0])
