"""SVG paint values: colours, lengths and gradients as paints of the document."""

from __future__ import annotations

import math
from collections import Counter
from itertools import islice
from typing import Any

from lxml import etree
from tinycss2.color4 import parse_color

from volumen.formats.svg.geometry import number, read_transform
from volumen.formats.svg.style import Sheet, Style
from volumen.geometry.affine import IDENTITY, Affine, Point, apply, apply_vector, invert, multiply
from volumen.geometry.path import Box
from volumen.model.limits import most
from volumen.shading.paint import Colour, Linear, Paint, Radial, Solid, Stop

_HREFS = ("href", "{http://www.w3.org/1999/xlink}href")
_BETWEEN = 8
_MOST_STOPS = 256


class Paints:
    """Reads paints: colours and gradients by reference, with what cannot be kept counted in ``missing``."""

    def __init__(self, by_id: dict[str, Any], sheet: Sheet, missing: Counter[str]) -> None:
        self.by_id, self.sheet, self.missing = by_id, sheet, missing
        self._known: dict[tuple[int, float], tuple[Stop, ...]] = {}  # stops by gradient and opacity

    def read(self, value: str, box: Box | None, style: Style, opacity: float) -> Paint | None:
        """A fill or stroke value; None for none."""
        value = value.strip()
        if value.startswith("url("):
            name, _, fallback = value[4:].partition(")")
            element = self.by_id.get(name.strip(" '\"").removeprefix("#"))
            paint = self._gradient(element, box, opacity) if element is not None else None
            if paint is not None or not fallback.strip():
                return paint
            value = fallback.strip()
        if value in ("none", "transparent", ""):
            return None
        colour = self.colour(value, style, opacity)
        return Solid(colour) if colour is not None else None

    def colour(self, value: str, style: Style, opacity: float) -> Colour | None:
        """A CSS colour times an opacity; None for what is none."""
        if value.lower() == "currentcolor":
            value = style.get("color") or "black"
        found = parse_color(value)
        if found is None or found == "currentcolor":
            self.missing["colours that cannot be read"] += 1
            return None
        try:
            srgb = found.to("srgb")
        except (NotImplementedError, ValueError):
            self.missing["colours of other colour spaces"] += 1
            return None
        r, g, b = (min(max(float(c or 0), 0.0), 1.0) for c in srgb.coordinates)
        alpha = float(found.alpha if found.alpha is not None else 1) * min(max(opacity, 0.0), 1.0)
        return Colour(r, g, b, min(max(alpha, 0.0), 1.0))

    # -- gradients

    def _gradient(self, element: Any, box: Box | None, opacity: float) -> Paint | None:
        kind = etree.QName(element).localname
        if kind not in ("linearGradient", "radialGradient"):
            self.missing[f"{kind} paints"] += 1
            return None
        chain = self._chain(element)
        key = (id(chain[0]), opacity)
        if key not in self._known:
            self._known[key] = self._stops(chain, opacity)
        stops = self._known[key]
        if not stops:
            return None
        if len(stops) == 1 or box is None:
            return Solid(stops[-1].colour)

        def get(name: str) -> str | None:
            return next((e.get(name) for e in chain if e.get(name) is not None), None)

        if (get("spreadMethod") or "pad") != "pad":
            self.missing["gradients that repeat (kept as running out)"] += 1
        place = self._place(get("gradientTransform"))
        whole = get("gradientUnits") != "userSpaceOnUse"
        if whole:
            w, h = box[2] - box[0], box[3] - box[1]
            if w <= 0 or h <= 0:
                return Solid(stops[-1].colour)
            place = multiply((w, 0, 0, h, box[0], box[1]), place)
        if kind == "linearGradient":
            ends = [
                number(get(k), d) for k, d in (("x1", 0.0), ("y1", 0.0), ("x2", 1.0 if whole else 100.0), ("y2", 0.0))
            ]
            return linear_under(stops, (ends[0], ends[1]), (ends[2], ends[3]), place)
        cx, cy, r = (number(get(k), 0.5) for k in ("cx", "cy", "r"))
        fx, fy = number(get("fx"), cx), number(get("fy"), cy)
        if r <= 0 or invert(place) is None:
            return Solid(stops[-1].colour)
        return Radial(stops, (cx, cy), r, (fx, fy), place, False)

    def _place(self, text: str | None) -> Affine:
        return read_transform(text, self.missing) if text else IDENTITY

    def _chain(self, element: Any) -> list[Any]:
        """The gradient and those it takes what it lacks from."""
        chain = [element]
        while len(chain) < 20:
            href = next((chain[-1].get(h) for h in _HREFS if chain[-1].get(h)), "")
            following = self.by_id.get(href.removeprefix("#")) if href.startswith("#") else None
            if following is None or following in chain:
                break
            chain.append(following)
        return chain

    def _stops(self, chain: list[Any], opacity: float) -> tuple[Stop, ...]:
        for element in chain:
            inside = (e for e in element if isinstance(e.tag, str) and etree.QName(e).localname == "stop")
            found = list(islice(inside, _MOST_STOPS + 1))
            if len(found) > _MOST_STOPS:
                self.missing[f"gradient stops beyond {_MOST_STOPS}"] += 1
                found = found[:_MOST_STOPS]
            if found:
                break
        else:
            return ()
        out: list[Stop] = []
        last = 0.0
        for stop in found:
            style = self.sheet.style_of(stop, Style())
            at = min(max(number(stop.get("offset"), 0.0), last), 1.0)
            last = at
            alpha = number(style.own("stop-opacity"), 1.0) * opacity
            colour = self.colour(style.own("stop-color") or "black", style, alpha)
            if colour is not None:
                out.append(Stop(at, colour))
        made = straight_alpha(out)
        return made if len(made) <= most("Linear", "stops") else tuple(out)


def straight_alpha(stops: list[Stop]) -> tuple[Stop, ...]:
    """Stops for a gradient whose colours are not weighted by alpha, as SVG has it and we do not.

    Between stops of unlike alpha more are set, so that both ways agree to a fraction of a level.
    """
    out: list[Stop] = stops[:1]
    for a, b in zip(stops, stops[1:], strict=False):
        if abs(a.colour.a - b.colour.a) > 1e-6 and a.colour.rgb != b.colour.rgb and b.at > a.at:
            for k in range(1, _BETWEEN):
                t = k / _BETWEEN
                mix = [
                    x + (y - x) * t
                    for x, y in zip((*a.colour.rgb, a.colour.a), (*b.colour.rgb, b.colour.a), strict=True)
                ]
                out.append(Stop(a.at + (b.at - a.at) * t, Colour(*mix)))
        out.append(b)
    return tuple(out)


def linear_under(stops: tuple[Stop, ...], start: Point, end: Point, place: Affine) -> Linear:
    """A linear gradient after an affine map: its stripes may slant, so the end moves square to them."""
    s, e = apply(place, start), apply(place, end)
    stripe = apply_vector(place, (-(end[1] - start[1]), end[0] - start[0]))
    size = math.hypot(*stripe)
    if size > 1e-12:
        nx, ny = -stripe[1] / size, stripe[0] / size
        along = (e[0] - s[0]) * nx + (e[1] - s[1]) * ny
        e = (s[0] + nx * along, s[1] + ny * along)
    return Linear(stops, s, e, False)
