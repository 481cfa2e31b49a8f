"""Pictures of what the garment printer and the cutter make of artwork."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path as FilePath
from typing import Any, NamedTuple

import numpy as np
import skia
from numpy.typing import NDArray

from volumen.caching import Cache
from volumen.colour.press import Bytes, separated
from volumen.colour.press_views import Spot, on_white
from volumen.compose.scene import build
from volumen.devices.cover import DeviceProblem, artwork_box, stock_hidden
from volumen.devices.cutter import die_line, plan
from volumen.devices.garment import underbase
from volumen.devices.press import Plates, print_sheet, read_plates
from volumen.devices.views import DeviceView
from volumen.geometry.affine import Affine, apply
from volumen.geometry.engine import matrix, to_engine
from volumen.geometry.path import Path, grow_box
from volumen.model.nodes import Document
from volumen.picture.stopping import Stopped
from volumen.render.raster import paint_area, pixel_size, straight_bytes, view_of

_BENCH = (0.80, 0.79, 0.76)  # what a sticker lies on
_WARNING, _INK_EDGE = 0xFFD84020, 0x66FFFFFF
_SHADOW = 3.0  # pixels, of a sticker
_files: Cache[Plates] = Cache("written files on the press", 2)


class DevicePicture(NamedTuple):
    """8-bit sRGB and alpha (h, w, 4), and what was measured."""

    pixels: NDArray[np.uint8]
    figures: dict[str, float]


def device_picture(
    document: Document, view: DeviceView, width: int, flat: bool = False, stop: Callable[[], bool] = lambda: False
) -> DevicePicture:
    """A document's artwork, its stock left out, as a device makes it. Raises DeviceProblem and Stopped."""
    margin = (view.cutter.gap + view.cutter.radius + 1) * 96 / 25.4 if view.device == "cut out" else 0.0
    box = grow_box(artwork_box(document), margin)
    scale = width / (box[2] - box[0])
    w, h = pixel_size(box, scale)
    place = view_of(box, scale)
    pixels = np.zeros((h, w, 4), np.uint8)
    surface = skia.Surface(pixels, colorType=skia.kRGBA_8888_ColorType)
    canvas = surface.getCanvas()
    if view.device == "underbase":
        canvas.clear(skia.Color4f(*view.cloth, 1.0))
        made = underbase(document, view.printer)
        _fill(canvas, made.white, place, 0xFFFFFFFF)
        _fill(canvas, made.bare, place, _WARNING)
        _line(canvas, made.ink, place, _INK_EDGE, 1.0)
        figures = {"ink": made.ink_mm2, "white": made.white_mm2, "bare": made.bare_mm2}
    else:
        art = np.zeros((h, w, 4), np.float32)
        picture = build(stock_hidden(document), flat, ground=False, stop=stop)
        if not paint_area(art, picture, place, (0, 0, w, h), stop=stop):
            raise Stopped
        figures = _cut_out(canvas, document, view, place, straight_bytes(art))
    surface.flushAndSubmit()
    return DevicePicture(pixels, figures)


def pressed(process: Bytes, spots: list[Spot], view: DeviceView, dpi: float) -> Bytes:
    """A sheet (h, w, 4) and its plates of spot inks as they come from the press. Raises ProfileProblem."""
    inks = separated(on_white(process), view.press)
    every = np.concatenate([inks, *(s.cover[..., None] for s in spots)], axis=-1)
    sheet = print_sheet(Plates(every, tuple(s.rgb for s in spots), dpi), view.press, view.run).pixels
    return np.dstack([sheet, np.full(sheet.shape[:2], 255, np.uint8)])


def printed_file(view: DeviceView, width: int) -> DevicePicture:
    """A written file, so many pixels wide, as it comes from the press; figures: its size in mm. Raises DeviceProblem
    and ProfileProblem."""
    path = FilePath(view.file)
    try:
        stat = path.stat()
    except OSError as error:
        raise DeviceProblem(f"'{path.name}' cannot be read: {error.strerror}") from error
    key = (view.file, stat.st_mtime_ns, stat.st_size, view.press, width)
    plates = _files.get(key)
    if plates is None:
        plates = _files.put(key, None, read_plates(path, view.press, wide=width))
    sheet = print_sheet(plates, view.press, view.run).pixels
    wide, high = plates.size
    opaque = np.full(sheet.shape[:2], 255, np.uint8)
    return DevicePicture(np.dstack([sheet, opaque]), {"wide": wide, "high": high})


def _cut_out(canvas: Any, document: Document, view: DeviceView, place: Affine, art: Bytes) -> dict[str, float]:
    """The artwork on white film, cut along its die line, on a bench."""
    line = die_line(document, view.cutter)
    made = plan(line, view.cutter)
    film = to_engine(line)
    film.transform(matrix(place))
    canvas.clear(skia.Color4f(*_BENCH, 1.0))
    soft = skia.Paint(Color=0x60000000, AntiAlias=True)
    soft.setMaskFilter(skia.MaskFilter.MakeBlur(skia.kNormal_BlurStyle, _SHADOW))
    canvas.save()
    canvas.translate(0, _SHADOW)
    canvas.drawPath(film, soft)
    canvas.restore()
    canvas.drawPath(film, skia.Paint(Color=0xFFFFFFFF, AntiAlias=True))
    canvas.save()
    canvas.clipPath(film, True)
    canvas.drawImage(skia.Image.fromarray(np.ascontiguousarray(art), colorType=skia.kRGBA_8888_ColorType), 0, 0)
    canvas.restore()
    dash = skia.Paint(Color=0xFF3A3A3A, AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=1.0)
    dash.setPathEffect(skia.DashPathEffect.Make([4.0, 3.0], 0))
    canvas.drawPath(film, dash)
    ring = skia.Paint(Color=_WARNING, AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=1.6)
    for tight in made.tight:
        x, y = apply(place, tight.at)
        canvas.drawCircle(x, y, 6, ring)
    least = min((t.radius for t in made.tight), default=view.cutter.radius)
    return {"cut": made.cut_mm, "seconds": made.seconds, "tight": float(len(made.tight)), "least": least}


def _fill(canvas: Any, path: Path, place: Affine, colour: int) -> None:
    drawn = to_engine(path)
    drawn.transform(matrix(place))
    canvas.drawPath(drawn, skia.Paint(Color=colour, AntiAlias=True))


def _line(canvas: Any, path: Path, place: Affine, colour: int, width: float) -> None:
    drawn = to_engine(path)
    drawn.transform(matrix(place))
    canvas.drawPath(drawn, skia.Paint(Color=colour, AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width))
