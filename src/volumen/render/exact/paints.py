"""Paint values as paint-library objects: shaders, blend modes, matrices."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import skia
from numpy.typing import NDArray

from volumen.caching import Cache, MixedCache, by_value
from volumen.geometry.affine import IDENTITY, Affine, invert, mean_scale, multiply
from volumen.geometry.engine import matrix
from volumen.model.nodes import Asset
from volumen.shading.paint import Colour, Drawn, Linear, Radial, Solid, Stop
from volumen.shading.ramp import effective_paint, held_focus, plain_stops, to_both_ends

BLEND = {
    "normal": skia.BlendMode.kSrcOver,
    "multiply": skia.BlendMode.kMultiply,
    "screen": skia.BlendMode.kScreen,
    "overlay": skia.BlendMode.kOverlay,
    "darken": skia.BlendMode.kDarken,
    "lighten": skia.BlendMode.kLighten,
    "color-dodge": skia.BlendMode.kColorDodge,
    "color-burn": skia.BlendMode.kColorBurn,
    "hard-light": skia.BlendMode.kHardLight,
    "soft-light": skia.BlendMode.kSoftLight,
    "difference": skia.BlendMode.kDifference,
    "exclusion": skia.BlendMode.kExclusion,
    "hue": skia.BlendMode.kHue,
    "saturation": skia.BlendMode.kSaturation,
    "color": skia.BlendMode.kColor,
    "luminosity": skia.BlendMode.kLuminosity,
}

_TILES = {"pad": skia.TileMode.kClamp, "reflect": skia.TileMode.kMirror, "repeat": skia.TileMode.kRepeat}
_BREAK = 1e-9
_shaders: MixedCache = Cache("shaders", 4096)
_breaks: Cache[tuple[int, ...]] = Cache("breaks of gradients", 4096)


def paint_for(paint: Drawn, opacity: float, blend: str, place: Affine = IDENTITY) -> Any:
    """A fresh antialiased paint. Where ``place`` maps it to pixels, colours that break off do so over a pixel."""
    paint = effective_paint(paint)
    out = skia.Paint(AntiAlias=True)
    if isinstance(paint, Solid):
        c = paint.colour
        out.setColor4f(color4f(c, opacity), None)
    elif not isinstance(paint, Linear | Radial):
        raise TypeError(f"a {type(paint).__name__} paint is worked out point by point")
    else:
        shader = shader_for(paint, place)
        if shader is None:
            out.setAlphaf(0.0)
        else:
            out.setShader(shader)
            out.setAlphaf(max(0.0, min(opacity, 1.0)))
    out.setBlendMode(BLEND[blend])
    return out


def color4f(c: Colour, opacity: float = 1.0) -> Any:
    """A colour times an opacity, as the paint library takes it."""
    return skia.Color4f(c.r, c.g, c.b, max(0.0, min(c.a * opacity, 1.0)))


def shader_for(gradient: Linear | Radial, place: Affine = IDENTITY) -> Any:
    """The gradient's shader, kept by identity; None for a gradient without stops."""
    breaks = _breaks_of(gradient)
    pixel = float(f"{_of_a_pixel(gradient, place):.2e}") if breaks else 0.0
    key = (id(gradient), pixel)
    hit = _shaders.get(key)
    if hit is not None:
        return hit
    return _shaders.put(key, gradient, _make_shader(gradient, breaks, pixel))


def _of_a_pixel(gradient: Linear | Radial, place: Affine) -> float:
    """How far along the gradient a pixel reaches that ``place`` maps its units to; 0 where nothing is seen of it."""
    if isinstance(gradient, Radial):
        return 1 / max(gradient.radius * mean_scale(multiply(place, gradient.transform)), 1e-9)
    back = invert(place)
    if back is None:
        return 0.0
    x, y = gradient.end[0] - gradient.start[0], gradient.end[1] - gradient.start[1]
    return math.hypot(back[0] * x + back[1] * y, back[2] * x + back[3] * y) / max(x * x + y * y, 1e-300)


def _breaks_of(gradient: Linear | Radial) -> tuple[int, ...]:
    """The numbers of plain stops that lie where the one before them does."""
    hit = _breaks.get(id(gradient))
    if hit is None:
        at = _packed_stops(gradient.stops, gradient.oklab)[1]
        found = tuple(k for k in range(1, len(at)) if at[k] - at[k - 1] < _BREAK)
        hit = _breaks.put(id(gradient), gradient, found)
    return hit


def _apart(at: list[float], breaks: tuple[int, ...], pixel: float) -> list[float]:
    """Positions whose breaks are a pixel wide, or as much as there is room for."""
    out = list(at)
    for k in breaks:
        before, after = (
            (at[k - 1] - at[k - 2]) / 2 if k > 1 else 0.0,
            (at[k + 1] - at[k]) / 2 if k + 1 < len(at) else 0.0,
        )
        out[k - 1] -= min(pixel / 2, before)
        out[k] += min(pixel / 2, after)
    return out


def _make_shader(gradient: Linear | Radial, breaks: tuple[int, ...], pixel: float) -> Any:
    colours, at = _packed_stops(gradient.stops, gradient.oklab)
    at = _apart(at, breaks, pixel) if breaks else at
    if not gradient.stops:
        return None
    if len(at) == 1:
        return skia.Shaders.Color(colours[0])
    if isinstance(gradient, Linear):
        return skia.GradientShader.MakeLinear([gradient.start, gradient.end], colours, at, _TILES[gradient.spread])
    radius = max(gradient.radius, 1e-6)
    local = matrix(gradient.transform)
    return skia.GradientShader.MakeTwoPointConical(
        held_focus(gradient.centre, radius, gradient.focus), 0.0, gradient.centre, radius, colours, at,
        _TILES[gradient.spread], 0, local,
    )  # fmt: skip


@by_value("packed stops", 4096)
def _packed_stops(stops: tuple[Stop, ...], oklab: bool) -> tuple[list[int], list[float]]:
    """Colours and positions as the paint library takes them, with a stop at both ends: without, it drops the positions
    of stops that are evenly spaced and end short, as 0 and 1/2, and draws them as if they went from end to end."""
    plain = plain_stops(stops, oklab)
    rows = to_both_ends(plain) if len(plain) > 1 else plain
    return [_packed(s) for s in rows], [s[0] for s in rows]


def _packed(stop: tuple[float, ...]) -> int:
    r, g, b, a = (max(0, min(255, round(v * 255))) for v in stop[1:])
    return int(skia.ColorSetARGB(a, r, g, b))


def float_image(pixels: NDArray[np.float32]) -> Any:
    """An image of premultiplied RGBA (h, w, 4) without copying it. Keep the array alive beside it."""
    info = skia.ImageInfo.Make(pixels.shape[1], pixels.shape[0], skia.kRGBA_F32_ColorType, skia.kPremul_AlphaType)
    return skia.Image.MakeRasterData(info, skia.Data.MakeWithoutCopy(pixels), pixels.strides[0])


_images: MixedCache = Cache("decoded pictures", 16)


def image_of(asset: Asset) -> Any | None:
    """An asset decoded for drawing; None if it cannot be decoded."""
    if asset.key in _images:
        return _images.get(asset.key)
    return _images.put(asset.key, None, skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(asset.data)))


Pixels = NDArray[np.float32]


def float_surface(pixels: Pixels) -> Any:
    """A surface that draws straight into (h, w, 4) float32 premultiplied RGBA. Keep the array alive beside it."""
    h, w = pixels.shape[:2]
    info = skia.ImageInfo.Make(w, h, skia.kRGBA_F32_ColorType, skia.kPremul_AlphaType)
    return skia.Surface.MakeRasterDirect(info, pixels, pixels.strides[0])
