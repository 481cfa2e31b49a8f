"""Reading SVG: shapes, groups, use, clips, gradients, CSS, opacity and blend modes become document nodes.

The reader trusts nothing: no entities, no external references, bounded size, depth and element count. What
it cannot keep it names in ``Reading.notes``.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path as FilePath
from typing import Any

import msgspec
from lxml import etree

from volumen.formats.files import FileProblem, read_bytes
from volumen.formats.svg.geometry import Lengths, basic_form, number, path_of, read_transform, view_box
from volumen.formats.svg.paint import Paints
from volumen.formats.svg.style import Sheet as StyleSheet
from volumen.formats.svg.style import Style
from volumen.geometry.affine import IDENTITY, Affine, multiply, scaling, translation
from volumen.geometry.boolean import union_all
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Contour, Path
from volumen.geometry.winding import simplified
from volumen.model.ingredients import BLEND_MODES, BlendMode, Fill, Ingredient, Line
from volumen.model.limits import MAX_NUMBER
from volumen.model.nodes import Document, Group, Node, Shape, Sheet, TextForm
from volumen.model.validate import DocumentError, validate
from volumen.outline.boxes import node_box
from volumen.outline.forms import path_form
from volumen.outline.outlines import outline

replace = msgspec.structs.replace
MAX_BYTES = 32 * 2**20
_MOST_UNITED = 60
MAX_ELEMENTS = 60_000
MAX_OUTLINES = 30_000
MAX_DEPTH = 90
_NS = "{http://www.w3.org/2000/svg}"
_HREFS = ("href", "{http://www.w3.org/1999/xlink}href")
_SILENT = {"title", "desc", "metadata", "defs", "style", "namedview", "script", "linearGradient", "radialGradient",
           "clipPath", "symbol", "stop"}  # fmt: skip
_SHAPES = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}


@dataclass(slots=True)
class Reading:
    """What a file gave: nodes on the sheet, the sheet's size, and what could not be kept."""

    nodes: tuple[Node, ...]
    width: float
    height: float
    notes: list[str] = field(default_factory=list)


def open_svg(path: FilePath) -> tuple[Document, list[str]]:
    """An SVG file as a document. Raises FileProblem."""
    reading = read_svg(read_bytes(path, MAX_BYTES), path.name)
    sheet = Sheet(min(max(reading.width, 1.0), 1e6), min(max(reading.height, 1.0), 1e6), None)
    highest = _highest(reading.nodes)
    document = Document(sheet, root=Group(0, "pile", reading.nodes), next_id=highest + 1, lifts_add_up=True)
    try:
        validate(document)
    except DocumentError as error:
        raise FileProblem(f"'{path.name}' cannot be used: {error}") from error
    return document, reading.notes


def read_svg(data: bytes, name: str = "SVG") -> Reading:
    """The content of an SVG document. Raises FileProblem for what is no SVG at all or out of bounds."""
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, huge_tree=False, remove_comments=True, remove_pis=True, load_dtd=False
    )
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise FileProblem(f"'{name}' is not readable as SVG: {error}") from error
    if etree.QName(root).localname != "svg":
        raise FileProblem(f"'{name}' is not SVG: its first element is <{etree.QName(root).localname}>")
    return _Reader(root).read()


def _highest(nodes: tuple[Node, ...]) -> int:
    return max((max(n.id, _highest(n.children)) for n in nodes), default=0)


class _Reader:
    def __init__(self, root: Any) -> None:
        self.root = root
        self.missing: Counter[str] = Counter()
        self.next_id = 1
        self.count = self.outlines = 0
        self.clips: dict[str, Path | None] = {}  # the united outlines of clips, by id
        self.by_id = {e.get("id"): e for e in root.iter() if isinstance(e.tag, str) and e.get("id")}
        texts = [e.text or "" for e in root.iter(f"{_NS}style", "style")]
        self.sheet = StyleSheet("\n".join(texts), self.missing)
        self.paints = Paints(self.by_id, self.sheet, self.missing)

    def read(self) -> Reading:
        box = view_box(self.root)
        width, height = (number(self.root.get(k), d) for k, d in (("width", box[2]), ("height", box[3])))
        if "%" in (self.root.get("width") or ""):
            width = box[2]
        if "%" in (self.root.get("height") or ""):
            height = box[3]
        width, height = (v if 0 < v < 1e6 else d for v, d in ((width, box[2] or 300), (height, box[3] or 150)))
        k = min(width / box[2], height / box[3]) if box[2] > 0 and box[3] > 0 else 1.0
        place = multiply(
            translation((width - box[2] * k) / 2, (height - box[3] * k) / 2),
            multiply(scaling(k, k), translation(-box[0], -box[1])),
        )
        if self._shown(self.root, 1, {}) > MAX_ELEMENTS:
            raise FileProblem(f"the SVG shows more than {MAX_ELEMENTS} elements; it is not opened")
        style = self.sheet.style_of(self.root, Style())
        nodes = self._children(self.root, style, Lengths(box[2], box[3]), 1, ())
        if place != IDENTITY and nodes:
            nodes = tuple(replace(n, transform=multiply(place, n.transform)) for n in nodes)
        notes = [f"{what} ({n})" if n > 1 else what for what, n in sorted(self.missing.items())]
        return Reading(nodes, width, height, notes)

    def _shown(self, parent: Any, depth: int, known: dict[Any, int]) -> int:
        """How many elements would be shown inside one: uses of uses may come to billions, so each is counted once."""
        if parent in known or depth > MAX_DEPTH:
            return known.get(parent, 0)
        known[parent] = 0  # also what holds itself
        total = 0
        for element in parent:
            if not isinstance(element.tag, str):
                continue
            total += 1
            tag = etree.QName(element).localname
            target = self._target(element) if tag == "use" else None
            if target is not None:
                total += 1 + self._shown(target, depth + 1, known)
            elif tag not in _SILENT:
                total += self._shown(element, depth + 1, known)
        known[parent] = total
        return total

    def _target(self, use: Any) -> Any | None:
        """What a use shows, if it is in the file."""
        href = next((use.get(h) for h in _HREFS if use.get(h)), "")
        return self.by_id.get(href[1:]) if href.startswith("#") else None

    def _take(self) -> int:
        self.next_id += 1
        return self.next_id - 1

    def _children(
        self, parent: Any, style: Style, lengths: Lengths, depth: int, used: tuple[str, ...]
    ) -> tuple[Node, ...]:
        out: list[Node] = []
        for element in parent:
            if not isinstance(element.tag, str):
                continue
            self.count += 1
            if self.count > MAX_ELEMENTS:
                raise FileProblem(f"the SVG shows more than {MAX_ELEMENTS} elements; it is not opened")
            if depth > MAX_DEPTH:
                self.missing[f"elements nested deeper than {MAX_DEPTH} levels"] += 1
                return tuple(out)
            node = self._element(element, style, lengths, depth, used)
            if node is not None:
                out.append(node)
        return tuple(out)

    def _element(self, element: Any, parent: Style, lengths: Lengths, depth: int, used: tuple[str, ...]) -> Node | None:
        tag = etree.QName(element).localname
        if tag in _SILENT or (etree.QName(element).namespace or "") not in ("", _NS[1:-1]):
            return None
        style = self.sheet.style_of(element, parent)
        if style.get("display") == "none":
            return None
        place = read_transform(element.get("transform") or style.own("transform"), self.missing)
        if any(abs(v) > MAX_NUMBER for v in place):
            self.missing["transforms with huge numbers"] += 1
            return None
        node: Node | None
        if tag in ("g", "a", "switch"):
            node = Group(
                self._take(),
                self._name(element, "group"),
                self._children(element, style, lengths, depth + 1, used),
                transform=place,
            )
            node = node if node.children else None
        elif tag == "svg":
            node = self._nested(element, style, place, depth, used)
        elif tag == "use":
            node = self._use(element, style, lengths, place, depth, used)
        elif tag in _SHAPES:
            node = self._shape(element, tag, style, lengths, place)
        elif tag == "text":
            node = self._text(element, style, lengths, place)
        else:
            self.missing[f"<{tag}>"] += 1
            return None
        return self._finished(element, node, style, lengths) if node is not None else None

    def _finished(self, element: Any, node: Node, style: Style, lengths: Lengths) -> Node:
        """Opacity, blend mode and clip of an element."""
        blend = style.own("mix-blend-mode") or "normal"
        opacity = min(max(number(style.own("opacity"), 1.0), 0.0), 1.0)
        if style.own("visibility") == "hidden" or style.get("visibility") == "hidden":
            node = replace(node, visible=False)
        mode: BlendMode = blend if blend in BLEND_MODES else "normal"  # type: ignore[assignment]
        node = replace(node, opacity=opacity, blend=mode)
        for name in ("mask", "filter"):
            if (style.own(name) or "none") != "none":
                self.missing[f"{name}s"] += 1
        clip = _reference(style.own("clip-path") or "")
        if clip is None:
            return node
        path = self._clip_path(clip, node, lengths)
        if path is None:
            self.missing["clip paths that could not be found"] += 1
            return node
        inside = replace(node, transform=IDENTITY)
        return Shape(self._take(), f"{node.name}, clipped", path_form(path), (), (inside,), node.transform)

    def _clip_path(self, name: str, node: Node, lengths: Lengths) -> Path | None:
        """A clip's outline in the coordinates of the clipped element."""
        element = self.by_id.get(name)
        if element is None or etree.QName(element).localname != "clipPath":
            return None
        if name not in self.clips:
            style = self.sheet.style_of(element, Style())
            shapes = self._children(element, style, lengths, 2, ())
            parts = [path.transformed(m) for s in shapes for path, m in _outlines(s, IDENTITY)]
            self.clips[name] = _united([p for p in parts if p])
        whole = self.clips[name]
        if whole is None:
            return None
        place = read_transform(element.get("transform"), self.missing)
        if element.get("clipPathUnits") == "objectBoundingBox":
            box = node_box(replace(node, transform=IDENTITY))
            if box is None:
                return None
            place = multiply((box[2] - box[0], 0, 0, box[3] - box[1], box[0], box[1]), place)
        return whole.transformed(place)

    def _nested(self, element: Any, style: Style, place: Affine, depth: int, used: tuple[str, ...]) -> Node | None:
        box = view_box(element)
        w, h = number(element.get("width"), box[2]), number(element.get("height"), box[3])
        k = min(w / box[2], h / box[3]) if box[2] > 0 and box[3] > 0 else 1.0
        at = translation(number(element.get("x"), 0), number(element.get("y"), 0))
        inner = multiply(place, multiply(at, multiply(scaling(k, k), translation(-box[0], -box[1]))))
        children = self._children(element, style, Lengths(box[2], box[3]), depth + 1, used)
        return Group(self._take(), self._name(element, "group"), children, transform=inner) if children else None

    def _use(
        self, element: Any, style: Style, lengths: Lengths, place: Affine, depth: int, used: tuple[str, ...]
    ) -> Node | None:
        target = self._target(element)
        if target is None:
            self.missing["uses of what is not in the file"] += 1
            return None
        href = "#" + target.get("id")
        if href in used:
            self.missing["uses that contain themselves"] += 1
            return None
        at = translation(lengths.x(element.get("x"), 0), lengths.y(element.get("y"), 0))
        inside = (*used, href)
        self.count += 1
        if etree.QName(target).localname == "symbol":
            children = self._children(target, self.sheet.style_of(target, style), lengths, depth + 1, inside)
        else:
            if depth + 1 > MAX_DEPTH or self.count > MAX_ELEMENTS:
                raise FileProblem(f"the SVG shows more than {MAX_ELEMENTS} elements; it is not opened")
            only = self._element(target, style, lengths, depth + 1, inside)
            children = (only,) if only is not None else ()
        if not children:
            return None
        return Group(self._take(), self._name(element, href[1:]), children, transform=multiply(place, at))

    def _shape(self, element: Any, tag: str, style: Style, lengths: Lengths, place: Affine) -> Node | None:
        form = basic_form(element, tag, lengths)
        if form is None:
            try:
                path = path_of(element, tag, lengths)
            except ValueError:
                self.missing[f"<{tag}> elements that cannot be read"] += 1
                return None
            if not path:
                return None
            self.outlines += len(path.contours)
            if self.outlines > MAX_OUTLINES:
                raise FileProblem(f"the SVG draws more than {MAX_OUTLINES:,} outlines; it is not opened")
            hull = path.hull()
            if hull is None or max(abs(v) for v in hull) > MAX_NUMBER:
                self.missing["shapes with huge numbers"] += 1
                return None
            if style.get("fill-rule") == "evenodd" and len(path.contours) and style.get("fill") != "none":
                path = simplified(Path(path.contours, True))
            form = path_form(path)
        shape = Shape(self._take(), self._name(element, tag), form, (), transform=place)
        return replace(shape, recipe=self._recipe(shape, style, lengths))

    def _recipe(self, shape: Shape, style: Style, lengths: Lengths) -> tuple[Ingredient, ...]:
        paints = f"{style.get('fill')} {style.get('stroke')}"
        box = outline(shape).bounds() if "url(" in paints else None  # plain colours lie in no box
        recipe: list[Ingredient] = []
        fill = self.paints.read(style.get("fill") or "black", box, style, number(style.get("fill-opacity"), 1.0))
        if fill is not None:
            recipe.append(Fill(fill))
        stroke = self.paints.read(style.get("stroke") or "none", box, style, number(style.get("stroke-opacity"), 1.0))
        width = lengths.other(style.get("stroke-width"), 1.0)
        if stroke is not None and width > 0:
            cap, join = style.get("stroke-linecap") or "butt", style.get("stroke-linejoin") or "miter"
            dashes = style.get("stroke-dasharray") or "none"
            pattern = (
                tuple(abs(lengths.other(d, 0)) for d in dashes.replace(",", " ").split()) if dashes != "none" else ()
            )
            line = Line(
                stroke, min(width, 1e6), cap if cap in ("butt", "round", "square") else "butt",  # type: ignore[arg-type]
                join if join in ("miter", "round", "bevel") else "miter",  # type: ignore[arg-type]
                max(number(style.get("stroke-miterlimit"), 4.0), 1.0),
                dashes=pattern if sum(pattern) > 0 else (), dash_start=number(style.get("stroke-dashoffset"), 0.0),
            )  # fmt: skip
            recipe.append(line)
        for name in ("marker-start", "marker-mid", "marker-end"):
            if (style.get(name) or "none") != "none":
                self.missing["line markers"] += 1
        if (style.get("paint-order") or "normal").startswith("stroke"):
            recipe.reverse()
        return tuple(recipe)

    def _text(self, element: Any, style: Style, lengths: Lengths, place: Affine) -> Node | None:
        words = " ".join("".join(element.itertext()).split())
        if not words:
            return None
        if any(etree.QName(e).localname == "textPath" for e in element if isinstance(e.tag, str)):
            self.missing["text on a path (kept as a straight line)"] += 1
        family = (style.get("font-family") or "Vollkorn").split(",")[0].strip(" '\"")
        anchor = {"middle": "centre", "end": "right"}.get(style.get("text-anchor") or "", "left")
        bold = (style.get("font-weight") or "") in ("bold", "600", "700", "800", "900")
        form = TextForm(
            words[:2000], family[:80], "Bold" if bold else "Regular",
            min(lengths.other(style.get("font-size"), 16.0), 1e5),
            lengths.x(element.get("x"), 0.0), lengths.y(element.get("y"), 0.0), align=anchor,  # type: ignore[arg-type]
        )  # fmt: skip
        shape = Shape(self._take(), words[:40], form, (), transform=place)
        return replace(shape, recipe=self._recipe(shape, style, lengths))

    def _name(self, element: Any, fallback: str) -> str:
        title = element.find(f"{_NS}title")
        text = (title.text or "").strip() if title is not None else ""
        return (text or element.get("id") or fallback)[:120]


def _reference(value: str) -> str | None:
    """The id in ``url(#id)``."""
    value = value.strip()
    if not value.startswith("url("):
        return None
    return value[4:].split(")")[0].strip(" '\"").removeprefix("#")


def _united(parts: list[Path]) -> Path | None:
    """The union of the parts of a clip; of very many all contours run the same way round, which shows the same."""
    try:
        if len(parts) <= _MOST_UNITED:
            return union_all(parts)
        return Path(tuple(c for p in parts for c in _clockwise(p)))
    except PathOpError:
        return None


def _clockwise(path: Path) -> list[Contour]:
    if path.area() >= 0:
        return list(path.contours)
    return [Contour(c.points[::-1].copy(), c.closed) for c in path.contours]


def _outlines(node: Node, parent: Affine) -> list[tuple[Path, Affine]]:
    m = multiply(parent, node.transform)
    if isinstance(node, Shape):
        return [(outline(node), m)]
    return [found for c in node.children for found in _outlines(c, m)]
