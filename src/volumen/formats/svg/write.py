"""SVG export: gradients, clip paths, blend modes and filter chains that renderers agree on."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from typing import Any

from lxml import etree
from msgspec.structs import replace

from volumen.colour.srgb import to_hex
from volumen.formats.bitmaps import png_bytes
from volumen.formats.marks import MARGIN, WIDTH, Line
from volumen.formats.options import FIELD_DPI
from volumen.geometry.affine import IDENTITY, Affine, digits_for, translation
from volumen.geometry.engine import combine
from volumen.geometry.path import Box, grow_box, path_data
from volumen.model.sheet import PER_UNIT
from volumen.picture.bounds import REACH, item_box, items_box
from volumen.picture.instructions import (
    Chunk,
    Clip,
    FillPath,
    Item,
    Layer,
    Picture,
    Soft,
    StrokePath,
    in_plain_layers,
    shade_colour,
)
from volumen.render.exact.pixel_fills import field_image
from volumen.render.raster import render_float, straight_bytes
from volumen.shading.paint import Drawn, Linear, Radial, Solid, is_field
from volumen.shading.ramp import effective_paint, held_focus, plain_stops

_MOST_PIXELS = 16_000_000
_NS = "http://www.w3.org/2000/svg"


def svg_bytes(
    picture: Picture, title: str = "", unit: str = "px", lines: Sequence[Line] = (), bleed: float = 0.0
) -> bytes:
    """The picture as SVG 1.1. Its size is given in a unit, so that a sheet of 210 mm is one wherever it is opened.
    ``lines`` are marks round it, from the left upper corner of the sheet that lies ``bleed`` within the picture."""
    made = _Writer(picture, title, unit)
    if lines:
        made.add_marks(lines, bleed, unit)
    return made.tobytes()


def _num(v: float, digits: int = 4) -> str:
    s = f"{v:.{digits}f}".rstrip("0").rstrip(".")
    return "0" if s in ("-0", "") else s


def _matrix(m: Affine) -> str:
    return "matrix(" + " ".join(f"{v:.8g}" for v in m) + ")"


def _named_inputs(chain: Any) -> None:
    """``in`` is a word of Python, so it is passed as in_."""
    for primitive in chain:
        if "in-" in primitive.attrib:
            primitive.set("in", primitive.attrib.pop("in-"))


def _both(a: Clip | None, b: Clip | None) -> Clip | None:
    """The clip to the inside of both."""
    if a is None or b is None:
        return a or b
    inside = combine(a.path.transformed(a.transform), b.path.transformed(b.transform), "intersect")
    return Clip(inside, IDENTITY)


class _Writer:
    def __init__(self, picture: Picture, title: str, unit: str) -> None:
        w, h = _num(picture.width), _num(picture.height)
        wide, high = (w, h) if unit == "px" else (
            f"{_num(v / PER_UNIT[unit])}{unit}" for v in (picture.width, picture.height)
        )  # fmt: skip
        self.root = etree.Element(
            f"{{{_NS}}}svg", nsmap={None: _NS}, width=wide, height=high, viewBox=f"0 0 {w} {h}", version="1.1"
        )
        if title:
            self._child(self.root, "title").text = title
        self.defs = self._child(self.root, "defs")
        self.count = 0
        self.sheet = (picture.width, picture.height)
        self.known: dict[object, str] = {}
        self.kept: list[object] = []  # what ``known`` names by identity must live as long
        body = self.body = self._child(self.root, "g", style="isolation:isolate")
        if picture.ground is not None:
            ground = self._child(body, "rect", width=w, height=h, fill=to_hex(picture.ground.rgb))
            if picture.ground.a < 1:
                ground.set("fill-opacity", _num(picture.ground.a))
        for item in picture.items:
            self._item(body, item)
        if not len(self.defs):
            self.root.remove(self.defs)

    def add_marks(self, lines: Sequence[Line], bleed: float, unit: str) -> None:
        """Marks on a margin round the picture, which is cut to its edge."""
        w, h = self.sheet
        name = self._new_id("edge")
        if self.defs.getparent() is None:
            self.root.insert(0, self.defs)
        self._child(self._child(self.defs, "clipPath", id=name), "rect", width=_num(w), height=_num(h))
        self.body.set("clip-path", f"url(#{name})")
        wide, high = w + 2 * MARGIN, h + 2 * MARGIN
        self.root.set("viewBox", f"{_num(-MARGIN)} {_num(-MARGIN)} {_num(wide)} {_num(high)}")
        for key, v in (("width", wide), ("height", high)):
            self.root.set(key, _num(v) if unit == "px" else f"{_num(v / PER_UNIT[unit])}{unit}")
        drawn = "".join(
            f"M{_num(a[0] + bleed)} {_num(a[1] + bleed)}L{_num(b[0] + bleed)} {_num(b[1] + bleed)}" for a, b in lines
        )
        pen = {"fill": "none", "stroke": "#000000", "stroke_width": _num(WIDTH)}
        self._child(self.root, "path", id="marks", d=drawn, **pen)

    def tobytes(self) -> bytes:
        return bytes(etree.tostring(self.root, xml_declaration=True, encoding="UTF-8", pretty_print=True))

    def _child(self, parent: Any, tag: str, **attributes: str) -> Any:
        names = {k.replace("_", "-"): v for k, v in attributes.items()}
        return etree.SubElement(parent, f"{{{_NS}}}{tag}", names)

    def _new_id(self, kind: str) -> str:
        self.count += 1
        return f"{kind}{self.count}"

    def _item(self, parent: Any, item: Item) -> None:
        if isinstance(item, FillPath | StrokePath):
            self._path(parent, item)
        elif isinstance(item, Layer):
            self._layer(parent, item)
        elif isinstance(item, Soft):
            self._soft(parent, item)

    def _field(self, parent: Any, item: FillPath) -> None:
        """A paint that SVG has not: its pixels, clipped by the outline."""
        made = field_image(item, FIELD_DPI / 96, self.sheet)
        if made is None:
            return
        rgba, (l, t, r, b) = made
        holder = self._child(parent, "g")
        self._blending(holder, item.opacity, item.blend)
        self._clipped(holder, Clip(item.path, item.transform))
        self._picture(holder, rgba, (l, t, r, b))

    def _picture(self, parent: Any, rgba: Any, box: Box) -> None:
        """Straight RGBA pixels (h, w, 4) over a box."""
        l, t, r, b = box
        data = base64.b64encode(png_bytes(rgba)).decode("ascii")
        image = self._child(parent, "image", x=f"{l:.6g}", y=f"{t:.6g}", width=f"{r - l:.6g}", height=f"{b - t:.6g}")
        image.set("preserveAspectRatio", "none")
        image.set("href", f"data:image/png;base64,{data}")

    def _path(self, parent: Any, item: FillPath | StrokePath) -> None:
        if not item.path:
            return
        if isinstance(item, FillPath) and is_field(effective_paint(item.paint)):
            self._field(parent, item)
            return
        # Digits follow the size on the sheet, so that small shapes scaled up keep their form.
        digits = digits_for(item.transform, 4)
        element = self._child(parent, "path", d=path_data(item.path, digits))
        if item.transform != IDENTITY:
            element.set("transform", _matrix(item.transform))
        self._blending(element, item.opacity, item.blend)
        if isinstance(item, FillPath):
            self._paint(element, "fill", item.paint)
            if item.path.evenodd:
                element.set("fill-rule", "evenodd")
            return
        element.set("fill", "none")
        self._paint(element, "stroke", item.paint)
        element.set("stroke-width", _num(item.width, digits_for(item.transform, 4)))
        element.set("stroke-linecap", item.cap)
        element.set("stroke-linejoin", item.join)
        element.set("stroke-miterlimit", _num(item.miter))

    def _paint(self, element: Any, name: str, paint: Drawn) -> None:
        paint = effective_paint(paint)
        if isinstance(paint, Solid):
            element.set(name, to_hex(paint.colour.rgb))
            if paint.colour.a < 1:
                element.set(f"{name}-opacity", _num(paint.colour.a))
        else:
            assert isinstance(paint, Linear | Radial)
            element.set(name, f"url(#{self._gradient(paint)})" if paint.stops else "none")

    def _gradient(self, paint: Linear | Radial) -> str:
        if paint in self.known:
            return self.known[paint]
        name = self.known[paint] = self._new_id("g")
        if isinstance(paint, Linear):
            (x1, y1), (x2, y2) = paint.start, paint.end
            node = self._child(
                self.defs, "linearGradient", x1=f"{x1:.9g}", y1=f"{y1:.9g}", x2=f"{x2:.9g}", y2=f"{y2:.9g}"
            )
        else:
            radius = max(paint.radius, 1e-6)
            fx, fy = held_focus(paint.centre, radius, paint.focus)
            node = self._child(
                self.defs, "radialGradient", cx=f"{paint.centre[0]:.9g}", cy=f"{paint.centre[1]:.9g}",
                r=f"{radius:.6g}", fx=f"{fx:.9g}", fy=f"{fy:.9g}",
            )  # fmt: skip
            if paint.transform != IDENTITY:
                node.set("gradientTransform", _matrix(paint.transform))
        node.set("id", name)
        node.set("gradientUnits", "userSpaceOnUse")
        if paint.spread != "pad":
            node.set("spreadMethod", paint.spread)
        for at, r, g, b, a in plain_stops(paint.stops, paint.oklab):
            stop = self._child(node, "stop", offset=f"{at:.6g}", stop_color=to_hex((r, g, b)))
            if a < 1:
                stop.set("stop-opacity", f"{a:.4g}")
        return name

    def _blending(self, element: Any, opacity: float, blend: str) -> None:
        if opacity < 1:
            element.set("opacity", _num(max(opacity, 0)))
        if blend != "normal":
            element.set("style", f"mix-blend-mode:{blend}")

    def _clipped(self, element: Any, clip: Clip | None) -> None:
        if clip is None:
            return
        known = (id(clip.path), clip.transform)
        if known in self.known:
            element.set("clip-path", f"url(#{self.known[known]})")
            return
        name = self.known[known] = self._new_id("c")
        self.kept.append(clip.path)
        holder = self._child(self.defs, "clipPath", id=name)
        outline = self._child(holder, "path", d=path_data(clip.path, digits_for(clip.transform, 4)))
        if clip.transform != IDENTITY:
            outline.set("transform", _matrix(clip.transform))
        if clip.path.evenodd:
            outline.set("clip-rule", "evenodd")
        element.set("clip-path", f"url(#{name})")

    def _layer(self, parent: Any, item: Layer) -> None:
        if item.at_rest:
            # A clip-path isolates a group, so a clip that lets its items blend through goes on each of them.
            for child in item.items:
                self._clipped_item(parent, child, item.clip)
            return
        if item.blur > 0 and item.blur_angle is not None:
            self._pixels(parent, item)
            return
        shade = shade_colour(item) is not None and item.clip is not None
        item = in_plain_layers(item)
        group = self._child(parent, "g")
        self._clipped(group, item.clip)
        self._blending(group, item.opacity, item.blend)
        if item.isolated and item.opacity >= 1 and item.blend == "normal":
            group.set("style", "isolation:isolate")
        box = items_box(item.items)
        if item.feather > 0 and box is not None:
            self._feather(group, item.feather, grow_box(box, REACH * item.feather + 1))
        if item.blur > 0 and box is not None:
            chain = self._filter(group, grow_box(box, REACH * item.blur + 1))
            self._child(chain, "feGaussianBlur", stdDeviation=_num(item.blur))
        for child in item.items:
            if shade and isinstance(child, Soft):
                self._soft(group, child, within=item_box(item))
            else:
                self._item(group, child)

    def _feather(self, group: Any, size: float, box: Box) -> None:
        """The picture times max(0, 2 b - 1), b being its blurred alpha."""
        chain = self._filter(group, box)
        self._child(chain, "feGaussianBlur", in_="SourceAlpha", stdDeviation=_num(size), result="b")
        fade = self._child(chain, "feComponentTransfer", in_="b", result="f")
        self._child(fade, "feFuncA", type="linear", slope="2", intercept="-1")
        self._child(chain, "feComposite", in_="SourceGraphic", in2="f", operator="in")
        _named_inputs(chain)

    def _pixels(self, parent: Any, item: Layer) -> None:
        """What SVG's filters cannot do alike everywhere, as a picture."""
        seen = item_box(item)
        if seen is None:
            return
        w, h = self.sheet
        box = (max(seen[0], -8), max(seen[1], -8), min(seen[2], w + 8), min(seen[3], h + 8))
        if box[2] <= box[0] or box[3] <= box[1]:
            return
        scale = min(FIELD_DPI / 96, (_MOST_PIXELS / ((box[2] - box[0]) * (box[3] - box[1]))) ** 0.5)
        plain = replace(item, opacity=1.0, blend="normal", clip=None)
        pixels = render_float(Picture(w, h, None, (Chunk(0, (plain,), box),)), scale, box)
        holder = self._child(parent, "g")
        self._blending(holder, item.opacity, item.blend)
        self._clipped(holder, item.clip)
        rows, columns = pixels.shape[:2]
        place = (box[0], box[1], box[0] + columns / scale, box[1] + rows / scale)
        self._picture(holder, straight_bytes(pixels), place)

    def _clipped_item(self, parent: Any, item: Item, clip: Clip | None) -> None:
        """One item under one more clip: a holder takes the clip and the blend mode, so both act on the result."""
        if clip is None:
            self._item(parent, item)
        elif isinstance(item, Layer) and item.at_rest:
            for child in item.items:
                holder_clip = _both(item.clip, clip)
                self._clipped_item(parent, child, holder_clip)
        else:
            holder = self._child(parent, "g")
            self._clipped(holder, clip)
            self._blending(holder, 1.0, item.blend)
            self._item(holder, item if item.blend == "normal" else replace(item, blend="normal"))

    def _ramp(self, chain: Any, last: str, ramp: tuple[tuple[float, float, float, float], ...], opacity: float) -> None:
        """Colours and alpha looked up in tables by a soft alpha: it is first copied into opaque grey."""
        grey = "0 0 0 1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 0 1"
        self._child(chain, "feColorMatrix", in_=last, type="matrix", values=grey, result="grey")
        hue = self._child(chain, "feComponentTransfer", in_="grey", result="hue")
        for k, name in enumerate(("feFuncR", "feFuncG", "feFuncB")):
            self._child(hue, name, type="table", tableValues=" ".join(_num(row[k]) for row in ramp))
        alpha = self._child(chain, "feComponentTransfer", in_=last, result="alpha")
        self._child(alpha, "feFuncA", type="table", tableValues=" ".join(_num(row[3] * opacity) for row in ramp))
        self._child(chain, "feComposite", in_="hue", in2="alpha", operator="in")

    def _filter(self, element: Any, box: Box) -> Any:
        name = self._new_id("f")
        x, y, r, b = box
        element.set("filter", f"url(#{name})")
        return self._child(
            self.defs, "filter", id=name, filterUnits="userSpaceOnUse", x=_num(x), y=_num(y),
            width=_num(r - x), height=_num(b - y), color_interpolation_filters="sRGB",
        )  # fmt: skip

    def _soft(self, parent: Any, item: Soft, within: Box | None = None) -> None:
        """A soft silhouette, of which no more than what lies ``within`` a box is seen."""
        moved = item_box(Soft(item.items, item.colour, item.sigma, item.offset))
        if moved is None:
            return
        if item.clip is not None:
            within = item_box(item)
        box = grow_box(moved, 1)
        if within is not None:  # large regions cost renderers time
            l, t, r, b = grow_box(within, REACH * item.sigma + 1)
            box = (max(box[0], l), max(box[1], t), min(box[2], r), min(box[3], b))
        if box[0] >= box[2] or box[1] >= box[3]:
            return
        group = self._child(parent, "g")  # filtered first, then clipped, then blended in
        self._clipped(group, item.clip)
        self._blending(group, 1.0, item.blend)
        chain = self._filter(group, box)
        last = "SourceAlpha"
        if item.sigma > 0:
            self._child(chain, "feGaussianBlur", in_="SourceAlpha", stdDeviation=_num(item.sigma), result="b")
            last = "b"
        opacity = max(0.0, min(item.colour.a * item.opacity, 1.0))
        if item.ramp:
            self._ramp(chain, last, item.ramp, opacity)
        else:
            self._child(chain, "feFlood", flood_color=to_hex(item.colour.rgb), flood_opacity=_num(opacity), result="c")
            self._child(chain, "feComposite", in_="c", in2=last, operator="in")
        _named_inputs(chain)
        if item.offset != (0.0, 0.0):  # moved before the filter, whose region need not hold where they come from then
            group = self._child(group, "g", transform=_matrix(translation(*item.offset)))
        for child in item.items:
            self._item(group, child)
