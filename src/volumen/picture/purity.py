"""What stays vector, needs a filter or becomes pixels, in each output format."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from volumen.picture.instructions import Bitmap, FillPath, Item, Layer, Picture, Soft
from volumen.shading.paint import Along, Conic, Drawn, Inward, Meshed, ReliefPaint, Solid, is_field

Form = Literal["vector", "filter", "pixels"]
_RANK: dict[Form, int] = {"vector": 0, "filter": 1, "pixels": 2}
WORDS: dict[Form, str] = {"vector": "stays vector", "filter": "needs a filter", "pixels": "becomes pixels"}
# Modes that a widespread PDF renderer draws wrongly; what they touch is written to PDF as pixels.
PDF_BAKED_MODES = frozenset({"hue", "saturation", "color", "luminosity"})


@dataclass(frozen=True, slots=True)
class Purity:
    """The most demanding form among the instructions of an object, per format, and why."""

    svg: Form = "vector"
    pdf: Form = "vector"
    reasons: tuple[str, ...] = ()

    def joined(self, other: Purity) -> Purity:
        """The worse of two in each format, with the reasons of both."""
        reasons = self.reasons + tuple(r for r in other.reasons if r not in self.reasons)
        return Purity(worse(self.svg, other.svg), worse(self.pdf, other.pdf), reasons)


def needs_backdrop(item: Item) -> bool:
    """Whether a PDF must hold the item as pixels together with all that lies beneath it."""
    if item.blend in PDF_BAKED_MODES:
        return True
    return isinstance(item, Layer) and item.at_rest and any(needs_backdrop(i) for i in item.items)


def worse(a: Form, b: Form) -> Form:
    """The one of two that is farther from plain vector."""
    return a if _RANK[a] >= _RANK[b] else b


Charged = dict[int, Purity]  # by node


def item_purity(item: Item, charged: Charged | None = None) -> Purity:
    """Purity of one instruction with all it contains. Shadows that another object throws onto what it shows are
    ``charged`` to that one, where they are asked for, and do not count here."""
    out = Purity()
    if item.blend in PDF_BAKED_MODES:
        out = Purity("vector", "pixels", (f"blend mode {item.blend}: pixels in PDF, with all that lies beneath",))
    if isinstance(item, FillPath) and is_field(item.paint):
        out = out.joined(_field_purity(item.paint))
    if isinstance(item, Bitmap):
        return Purity(reasons=("reference image: in no export",))
    if isinstance(item, Soft):
        if item.sigma > 0:
            out = out.joined(Purity("filter", "pixels", ("soft shadow or glow",)))
        if charged is not None and item.thrown is not None:
            charged[item.thrown] = out.joined(charged.get(item.thrown, Purity()))
            return Purity()
        return out
    if isinstance(item, Layer):
        if item.blur > 0 and item.blur_angle is None:
            out = out.joined(Purity("filter", "pixels", ("blur",)))
        elif item.blur > 0:
            out = out.joined(Purity("pixels", "pixels", ("blur along a line",)))
        if item.feather > 0:
            out = out.joined(Purity("filter", "pixels", ("feathered edge",)))
        out = out.joined(items_purity(item.items, charged))
    return out


def is_patched(paint: Drawn) -> bool:
    """Whether PDF draws a paint as patches: meshes and conic gradients, while they have no grain."""
    if isinstance(paint, Meshed):
        return paint.grain is None
    return isinstance(paint, Conic) and paint.grain is None and all(s.grain <= 0 for s in paint.stops)


def _field_purity(paint: Drawn) -> Purity:
    """Paints that SVG does not draw by itself; PDF has true patches for some."""
    if isinstance(paint, ReliefPaint):
        return Purity("pixels", "pixels", ("relief",))
    if isinstance(paint, Solid) or paint.grain is not None:
        return Purity("pixels", "pixels", ("grain",))
    if is_patched(paint):
        what = "gradient mesh" if isinstance(paint, Meshed) else "conic gradient"
        return Purity("pixels", "vector", (f"{what}: pixels in SVG, a true mesh in PDF",))
    words = {Conic: "grain", Inward: "gradient from the outline inwards", Along: "gradient of a line"}
    return Purity("pixels", "pixels", (words.get(type(paint), "grain"),))


def items_purity(items: Iterable[Item], charged: Charged | None = None) -> Purity:
    """What becomes of some items together."""
    out = Purity()
    for item in items:
        out = out.joined(item_purity(item, charged))
    return out


def node_purity(picture: Picture) -> dict[int, Purity]:
    """Purity by node id, for every node that paints a chunk of its own. The shadows that fall from one sheet on others
    are those of the one that throws them."""
    out: Charged = {}
    for chunk in picture.chunks:
        own = items_purity(chunk.items, out)
        out[chunk.node] = own.joined(out.get(chunk.node, Purity()))
    return out


def picture_purity(picture: Picture) -> Purity:
    """What becomes of a whole picture."""
    return items_purity(picture.items)
