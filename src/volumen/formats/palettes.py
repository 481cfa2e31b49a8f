"""Palettes as open files: CSS custom properties, JSON, SVG."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import msgspec
import tinycss2
from lxml import etree
from tinycss2.color4 import parse_color

from volumen.colour.srgb import to_hex
from volumen.formats.files import FileProblem, decoded, read_bytes, write_bytes
from volumen.model.nodes import Palette, Swatch
from volumen.shading.paint import Colour

_MAX_BYTES = 8 * 2**20
_MOST = 4096
_SVG = "http://www.w3.org/2000/svg"
SUFFIXES = (".css", ".json", ".svg")


class _Entry(msgspec.Struct):
    name: str
    colour: str
    group: str = ""


class _File(msgspec.Struct):
    swatches: list[_Entry]


def read_palette(path: Path) -> list[Swatch]:
    """The swatches of a CSS, JSON or SVG file, with ids 0. Raises FileProblem."""
    data = read_bytes(path, _MAX_BYTES)
    kind = path.suffix.lower()
    readers = {".css": _from_css, ".json": _from_json, ".svg": _from_svg}
    if kind not in readers:
        raise FileProblem(f"'{path.name}' is no palette that can be read; use {', '.join(SUFFIXES)}")
    found = readers[kind](data, path.name)
    if not found:
        raise FileProblem(f"'{path.name}' holds no colours")
    return found[:_MOST]


def write_palette(palette: Palette, path: Path) -> None:
    """Write the swatches as the file's suffix says. Raises FileProblem."""
    writers = {".css": _to_css, ".json": _to_json, ".svg": _to_svg}
    kind = path.suffix.lower()
    if kind not in writers:
        raise FileProblem(f"a palette can be written as {', '.join(SUFFIXES)}, not as '{path.suffix}'")
    write_bytes(path, writers[kind](palette.swatches))


def _colour(value: str | Any) -> Colour | None:
    """A CSS colour, in words or as it was parsed, as ours; None if it is none."""
    found = parse_color(value.strip() if isinstance(value, str) else value)
    if found is None or found == "currentcolor":
        return None
    try:
        r, g, b = (min(max(float(c or 0), 0.0), 1.0) for c in found.to("srgb").coordinates)
    except (NotImplementedError, ValueError):
        return None
    return Colour(r, g, b, float(found.alpha if found.alpha is not None else 1))


def _css_colour(c: Colour) -> str:
    return to_hex(c.rgb) + (f"{round(c.a * 255):02x}" if c.a < 1 else "")


def _from_css(data: bytes, name: str) -> list[Swatch]:
    out: list[Swatch] = []
    rules = tinycss2.parse_stylesheet(data.decode("utf-8", "replace"), skip_comments=True, skip_whitespace=True)
    for rule in rules:
        if rule.type != "qualified-rule":
            continue
        selector = tinycss2.serialize(rule.prelude).strip().lstrip(".:#")
        for item in tinycss2.parse_blocks_contents(rule.content):
            if len(out) >= _MOST:
                return out
            held = item.value if item.type == "declaration" else ()
            words = [w for w in held if w.type not in ("whitespace", "comment")]
            if len(words) == 1 and (c := _colour(words[0])) is not None:
                out.append(
                    Swatch(0, item.name.lstrip("-").replace("-", " "), c, "" if selector == "root" else selector)
                )
    return out


def _to_css(swatches: tuple[Swatch, ...]) -> bytes:
    lines: list[str] = []
    for group in dict.fromkeys(s.group for s in swatches):
        lines.append(f".{_word(group)} {{" if group else ":root {")
        used: dict[str, int] = {}
        for s in swatches:
            if s.group == group:
                word = _word(s.name)
                used[word] = used.get(word, 0) + 1
                number = f"-{used[word]}" if used[word] > 1 else ""
                lines.append(f"  --{word}{number}: {_css_colour(s.colour)};")
        lines.append("}")
    return ("\n".join(lines) + "\n").encode()


def _word(text: str) -> str:
    """A name that CSS takes as an identifier."""
    word = re.sub(r"[^\w-]+", "-", text.strip().lower()).strip("-") or "colour"
    return f"c-{word}" if word[0].isdigit() else word


def _from_json(data: bytes, name: str) -> list[Swatch]:
    entries = decoded(data, _File, name, "palette").swatches
    out = []
    for e in entries[:_MOST]:
        c = _colour(e.colour)
        if c is None:
            raise FileProblem(f"'{name}': '{e.colour[:40]}' of '{e.name[:40]}' is not a colour")
        out.append(Swatch(0, e.name, c, e.group))
    return out


def _to_json(swatches: tuple[Swatch, ...]) -> bytes:
    entries = [_Entry(s.name, _css_colour(s.colour), s.group) for s in swatches]
    return msgspec.json.format(msgspec.json.encode(_File(entries)), indent=2) + b"\n"


def _from_svg(data: bytes, name: str) -> list[Swatch]:
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise FileProblem(f"'{name}' is not readable SVG: {error}") from error
    out: dict[tuple[str, Colour], Swatch] = {}
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        title = next((c.text or "" for c in element if isinstance(c.tag, str) and c.tag.endswith("}title")), "")
        if len(out) >= _MOST:
            break
        for value in _svg_colours(element):
            c = _colour(value)
            if c is not None:
                label = title or element.get("id") or to_hex(c.rgb)
                out.setdefault((label, c), Swatch(0, label, c, _group_of(element)))
    return list(out.values())


def _svg_colours(element: Any) -> list[str]:
    """What an element says of colour, as an attribute or in its style."""
    style = dict(part.split(":", 1) for part in (element.get("style") or "").split(";") if ":" in part)
    named = {k.strip(): v for k, v in style.items()}
    return [v for k in ("fill", "stroke", "stop-color") if (v := element.get(k) or named.get(k))]


def _group_of(element: Any) -> str:
    parent = element.getparent()
    return str(parent.get("id") or "") if parent is not None and parent.tag == f"{{{_SVG}}}g" else ""


def _to_svg(swatches: tuple[Swatch, ...]) -> bytes:
    """A sheet of squares, one a swatch, each with its name as title, groups as groups."""
    rows = list(dict.fromkeys(s.group for s in swatches))
    wide = max((sum(s.group == g for s in swatches) for g in rows), default=1)
    root = etree.Element(f"{{{_SVG}}}svg", nsmap={None: _SVG}, viewBox=f"0 0 {wide * 24} {max(len(rows), 1) * 24}")
    for y, group in enumerate(rows):
        holder = etree.SubElement(root, f"{{{_SVG}}}g", {"id": group} if group else {})
        for x, s in enumerate(s for s in swatches if s.group == group):
            size = {"x": str(x * 24), "y": str(y * 24), "width": "24", "height": "24", "fill": to_hex(s.colour.rgb)}
            if s.colour.a < 1:
                size["fill-opacity"] = f"{s.colour.a:.4g}"
            rect = etree.SubElement(holder, f"{{{_SVG}}}rect", size)
            etree.SubElement(rect, f"{{{_SVG}}}title").text = s.name
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))
