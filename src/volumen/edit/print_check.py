"""What would go wrong in print: too thin, too small, too much ink, beyond the inks, cut without bleed, hard to read."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np
from msgspec.structs import replace

from volumen.colour import oklab
from volumen.colour.difference import srgb_difference
from volumen.colour.press import PRINTABLE, Bytes, levels_of, press_difference, printed, separated, total_ink
from volumen.colour.press_settings import Press
from volumen.colour.relatives import contrast
from volumen.colour.srgb import Floats, to_hex
from volumen.compose.backdrop import behind
from volumen.compose.face import base_colour
from volumen.devices.cover import die_lines
from volumen.devices.cutter import USUAL, Cutter
from volumen.edit.cut_faults import double_cuts
from volumen.edit.die_lines import astray, with_die_line
from volumen.edit.inks import with_named_inks
from volumen.edit.paint_faults import LEAST_DPI, mended_paint, paint_faults
from volumen.edit.thin_parts import thin_part
from volumen.geometry.affine import Affine, apply, invert, mean_scale
from volumen.model.ingredients import Block, Body, Fill, Ingredient, Line, Recipe, Relief, Sliver
from volumen.model.nodes import Document, Node, RectangleForm, Shape, TextForm
from volumen.model.recolour import colours_of, ingredient_with
from volumen.model.sheet import PER_UNIT
from volumen.model.tree import chain_to, find, place_of, seen_chains, update_nodes
from volumen.outline.boxes import node_box
from volumen.outline.hit import hit
from volumen.picture.spots import Inks, ink_of, spot_inks
from volumen.shading.paint import Colour

MM, PT = PER_UNIT["mm"], PER_UNIT["pt"]
THINNEST = {"press": 0.2, "cutter": 0.5}  # mm
SMALLEST, SMALLEST_REVERSED = 5.0, 7.0  # pt, of letters; of light ones on dark
READABLE = 3.0  # WCAG 2 contrast of large letters
BLEED = 3 * MM
_GOOD_DPI = 300.0
_NEAR_EDGE = 0.3 * MM
_ASTRAY = "die line"
INK_THAT_MEETS = "ink where colours meet"
INK_SIDE = 800  # pixels along the longer side of the sheet, in which that is measured
_INK_STEPS = np.linspace(-1, 1, 15)
_INK_REACH = (0.25, 0.12, 0.12)  # OKLab, in which a colour with less ink is sought


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing of one node (0: the sheet): ``what`` in a word, how much and where, and how it is ``mended``, in words;
    empty where that is the artist's to decide."""

    node: int
    what: str
    message: str
    mend: str = ""


def faults(document: Document, press: Press, device: str = "press", cutter: Cutter = USUAL) -> list[Fault]:
    """All that would go wrong, from the back of the pile to its front, the sheet first. Raises ProfileProblem."""
    cut = set(die_lines(document))
    found = [*_edge(document, cut)] if device == "press" or not cut else []
    for chain in _seen(document):
        node, world = chain[-1], place_of(chain)
        scale = mean_scale(world)
        if device == "cutter" and cut and node.id not in cut:
            continue  # with a die line, only that is cut
        if node.id not in cut:  # a hair line is all that a cutter follows
            found += _thin(node, world, THINNEST[device])
        if isinstance(node, Shape) and isinstance(node.form, TextForm):
            found += _letters(document, node, node.form.size * scale)
        if device == "press":
            found += [Fault(node.id, f.what, f.message, f.mend) for f in paint_faults(document, node, scale, press)]
    if device == "press":
        return [*_names(document), *_pixels(document), *found, *_inks(document, press)]
    if (off := astray(document, cutter)) is not None:
        message = f"it does not follow the artwork any more: {off[1] / MM:.1f} mm off"
        found.append(Fault(off[0], _ASTRAY, message, "drawn anew"))
    for node_id, name, long in double_cuts(document, cut):
        found.append(Fault(node_id, "cut", f"{long / MM:.1f} mm of its outline lie on that of {name}: cut twice"))
    return found


def _names(document: Document) -> Iterator[Fault]:
    """Spot inks that no plate can be called by."""
    if with_named_inks(document) is not document:
        yield Fault(0, "ink names", "a spot ink has no name of its own", "named after its swatch")


def _pixels(document: Document) -> Iterator[Fault]:
    """What becomes pixels, too coarse."""
    if document.sheet.dpi < LEAST_DPI:
        message = f"what becomes pixels has {document.sheet.dpi:.0f} dpi; under {LEAST_DPI:.0f} it is seen"
        yield Fault(0, "dpi", message, f"{_GOOD_DPI:.0f} dpi")


def mended_print(
    document: Document, wanted: Iterable[Fault], press: Press, device: str = "press", cutter: Cutter = USUAL
) -> Document:  # fmt: skip
    """The document with what can be mended put right: the least that is enough."""
    for fault in wanted:
        if not fault.mend:
            continue
        if fault.what == "bleed":
            document = replace(document, sheet=replace(document.sheet, bleed=max(document.sheet.bleed, BLEED)))
            continue
        if fault.what == "ink names":
            document = with_named_inks(document)
            continue
        if fault.what == "dpi":
            document = replace(document, sheet=replace(document.sheet, dpi=max(document.sheet.dpi, _GOOD_DPI)))
            continue
        if fault.what == _ASTRAY:
            document = with_die_line(document, cutter)[0]
            continue
        if fault.what == "short of bleed":
            document = _stretched(document, fault.node)
            continue
        chain = chain_to(document, fault.node)
        if len(chain) < 2:
            continue
        scale = mean_scale(place_of(chain)) or 1.0
        if fault.what in ("bands", "white"):
            change = partial(mended_paint, what=fault.what, press=press, scale=scale)
        elif fault.what in ("line", "sliver"):
            least = THINNEST[device] * MM / scale
            change = partial(_widened, least=least, kind=Line if fault.what == "line" else Sliver)
        else:
            change = partial(ingredient_with, change=partial(_printable, press=press, what=fault.what))
        recipe = tuple(change(i) for i in chain[-1].recipe)
        document = update_nodes(document, [fault.node], partial(_with_recipe, recipe=recipe))
    return document


def _with_recipe(node: Node, recipe: Recipe) -> Node:
    return replace(node, recipe=recipe)


def _seen(document: Document) -> Iterator[list[Node]]:
    """What is seen, but for what only stands for the stock."""
    return seen_chains(document, lambda n: n.visible and not n.stock)


def _edge(document: Document, cut: set[int]) -> Iterator[Fault]:
    """Artwork that ends just at the edge of the sheet, or short of its bleed, where the cut would leave white; what is
    ``cut`` along may lie there."""
    bleed = document.sheet.bleed
    shown = [n for n in document.root.children if n.visible and not n.stock and n.id not in cut]
    nodes = [(n, met) for n in shown if (met := _met(document, n))]
    if nodes and bleed == 0:
        sides = ", ".join(dict.fromkeys(side for _, met in nodes for side in met))
        yield Fault(0, "bleed", f"the artwork meets the edge ({sides}) but the sheet has no bleed", "3 mm of bleed")
        return
    for node, met in nodes:
        short = {side: (bleed - over) / MM for side, over in met.items() if over < bleed - _NEAR_EDGE}
        if short:
            message = f"ends {max(short.values()):.1f} mm short of the bleed ({', '.join(short)})"
            mend = "stretched over it" if isinstance(getattr(node, "form", None), RectangleForm) else ""
            yield Fault(node.id, "short of bleed", message, mend)


def _met(document: Document, node: Node) -> dict[str, float]:
    """The edges of the sheet that a node reaches, and how far it goes beyond them."""
    box, sheet = node_box(node), document.sheet
    if box is None:
        return {}
    over = {"left": -box[0], "top": -box[1], "right": box[2] - sheet.width, "bottom": box[3] - sheet.height}
    return {side: v for side, v in over.items() if v > -_NEAR_EDGE}


def _stretched(document: Document, node_id: int) -> Document:
    """A rectangle that reaches over the bleed at the edges that it meets; its paints stay where they were."""
    node = find(document, node_id)
    back = invert(node.transform) if node is not None else None
    if not isinstance(node, Shape) or not isinstance(node.form, RectangleForm) or back is None:
        return document
    sheet, b, f = document.sheet, document.sheet.bleed, node.form
    far = {"left": -b, "top": -b, "right": sheet.width + b, "bottom": sheet.height + b}
    left, top, right, bottom = (
        v for p in ((f.x, f.y), (f.x + f.width, f.y + f.height)) for v in apply(node.transform, p)
    )
    now = {"left": left, "top": top, "right": right, "bottom": bottom} | {s: far[s] for s in _met(document, node)}
    (x0, y0), (x1, y1) = apply(back, (now["left"], now["top"])), apply(back, (now["right"], now["bottom"]))
    form = replace(f, x=min(x0, x1), y=min(y0, y1), width=abs(x1 - x0), height=abs(y1 - y0))
    return update_nodes(document, [node_id], lambda n: replace(n, form=form))


def _thin(node: Node, world: Affine, least: float) -> Iterator[Fault]:
    scale = mean_scale(world)
    drawn = [i for i in node.recipe if i.on and _width(i) > 0]
    for what, kind in (("line", Line), ("sliver", Sliver)):
        sizes = [_width(i) * scale / MM for i in drawn if isinstance(i, kind)]
        if sizes and min(sizes) < least - 1e-6:
            message = f"a {what} of {min(sizes):.2f} mm; under {least} mm it may not hold"
            yield Fault(node.id, what, message, f"{least} mm")
    found = thin_part(node, world, least * MM)
    if found is not None:
        what, long = found
        yield Fault(node.id, what, f"a {what} is under {least} mm wide for {long / MM:.1f} mm: it may not hold")


def _width(i: Ingredient) -> float:
    return i.width if isinstance(i, Line) else abs(i.depth) if isinstance(i, Sliver) and i.by == "shift" else 0.0


def _widened(i: Ingredient, least: float, kind: type) -> Ingredient:
    if not isinstance(i, kind) or not 0 < _width(i) < least:
        return i
    if isinstance(i, Sliver):
        return replace(i, depth=least if i.depth > 0 else -least)
    return replace(i, width=least) if isinstance(i, Line) else i


def _letters(document: Document, node: Shape, size: float) -> Iterator[Fault]:
    ground = behind(document, node)
    own, back = base_colour(node).rgb, ground.rgb if ground is not None else (1.0, 1.0, 1.0)
    light = oklab.from_srgb(np.array([own, back]))[:, 0]
    turned = bool(light[0] > light[1])
    least = SMALLEST_REVERSED if turned else SMALLEST
    if size / PT < least - 1e-6:
        how = "light letters on dark" if turned else "letters"
        yield Fault(node.id, "type", f"{how} of {size / PT:.1f} pt; under {least:.0f} pt they fill in")
    ratio = contrast(own, back)
    raised = any(isinstance(i, Relief | Body | Block) and i.on for i in node.recipe)  # read by their light
    if ratio < READABLE and not raised and any(isinstance(i, Fill) and i.on for i in node.recipe):
        away = abs(float(light[0] - light[1])) * 100
        yield Fault(node.id, "contrast", f"{ratio:.1f} : 1 against what lies behind (lightness {away:.0f} apart)")


def _inks(document: Document, press: Press) -> Iterator[Fault]:
    """Colours with too much ink, or that the press cannot reach, object by object; all are looked at in one go."""
    owners: list[tuple[int, list[Colour]]] = []
    inks = spot_inks(document)
    for chain in _seen(document):
        colours = [c for i in chain[-1].recipe if i.on and not _spot(i, inks) for c in colours_of(i)]
        if colours:
            owners.append((chain[-1].id, colours))
    every = list({c.rgb for _, colours in owners for c in colours})
    if not every:
        return
    rgb = levels_of(every)
    ink = dict(zip(every, total_ink(separated(rgb, press)).tolist(), strict=True))
    off = dict(zip(every, press_difference(rgb, press).tolist(), strict=True))
    for node, colours in owners:
        wettest, farthest = max(colours, key=lambda c: ink[c.rgb]), max(colours, key=lambda c: off[c.rgb])
        if ink[wettest.rgb] > press.ink_limit + 0.5:
            message = f"{to_hex(wettest.rgb)} takes {ink[wettest.rgb]:.0f} % ink of {press.ink_limit:.0f} %"
            yield Fault(node, "ink", message, "the nearest colour with less ink")
        if off[farthest.rgb] > PRINTABLE:
            message = f"{to_hex(farthest.rgb)} is out of gamut by {off[farthest.rgb]:.1f}"
            yield Fault(node, "gamut", message, "the nearest colour that prints")


def ink_that_meets(document: Document, inks: Bytes, press: Press) -> list[Fault]:
    """Too much ink where colours meet: in blends, in shadows over dark paints, in spot inks over the others. ``inks``
    (h, w, n) are those of the whole sheet as it is printed, 255 for solid ones. The front-most object is named."""
    total = total_ink(inks)
    over = total > press.ink_limit + 0.5
    if not over.any():
        return []
    row, column = np.unravel_index(int(total.argmax()), total.shape)
    k = document.sheet.width / total.shape[1]
    at = ((float(column) + 0.5) * k, (float(row) + 0.5) * k)
    chain = hit(document, at)
    share = float(over.mean()) * 100
    message = (
        f"up to {total.max():.0f} % ink of {press.ink_limit:.0f} % where colours meet, at {at[0]:.0f}, {at[1]:.0f};"
        f" {max(share, 0.1):.1f} % of the sheet is over the limit"
    )
    return [Fault(chain[-1] if chain else 0, INK_THAT_MEETS, message)]


def _spot(i: Ingredient, inks: Inks) -> bool:
    """Whether an ingredient is printed with a spot ink."""
    return isinstance(i, Fill | Line) and ink_of(i.paint, inks) is not None


def _printable(colour: Colour, press: Press, what: str) -> Colour:
    """The nearest colour that the press reaches, or that stays below its limit of ink; the same where it does."""
    rgb = levels_of([colour.rgb])
    if what == "gamut":
        if press_difference(rgb, press)[0] <= PRINTABLE:
            return colour
        found = printed(separated(rgb, press.nearest), press.nearest)[0] / 255
    else:
        if total_ink(separated(rgb, press))[0] <= press.ink_limit:
            return colour
        found = _drier(rgb[0] / 255, press)
    r, g, b = found.tolist()
    return Colour(r, g, b, colour.a)


def _drier(rgb: Floats, press: Press) -> Floats:
    """The colour at the least CIEDE2000 whose inks stay within the limit: sought round it and towards white, then ever
    finer round the best."""
    steps = np.stack(np.meshgrid(_INK_STEPS, _INK_STEPS, _INK_STEPS, indexing="ij"), axis=-1).reshape(-1, 3)
    best = rgb + (1 - rgb) * np.linspace(0, 1, 200)[:, None]
    best = best[total_ink(separated(np.round(best * 255), press)) <= press.ink_limit][0]
    middle, reach = oklab.from_srgb(rgb[None])[0], np.array(_INK_REACH)
    for _ in range(3):
        levels = levels_of(np.concatenate([oklab.to_srgb(middle + steps * reach), best[None]]))
        dry = levels[total_ink(separated(levels, press)) <= press.ink_limit] / 255
        best = dry[srgb_difference(dry, np.broadcast_to(rgb, dry.shape)).argmin()]
        middle, reach = oklab.from_srgb(best[None])[0], reach / 4
    return np.asarray(best)
