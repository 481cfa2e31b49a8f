"""The picture: the small, closed set of drawing instructions between build and backends.

``docs/picture.md`` is the contract in prose: units, axes, alpha, colour encoding, meaning, who may bake. Instructions
are themselves by identity: what is the same object looks the same.
"""

from __future__ import annotations

from typing import NamedTuple

import msgspec
from msgspec.structs import replace

from volumen.geometry.affine import Affine, Point
from volumen.geometry.engine import Cap, Join
from volumen.geometry.path import Box, Path
from volumen.model.ingredients import BlendMode
from volumen.model.nodes import Asset, TextForm
from volumen.shading.paint import Colour, Drawn, Paint, Solid, tinted


class FillPath(msgspec.Struct, frozen=True, eq=False):
    """Paint the inside of ``path``; path and paint are mapped to the sheet by ``transform``.

    ``course`` is the line, ``course_width`` wide, whose outline ``path`` is, for paints that run along or across it,
    or the outline whose relief is painted.
    """

    path: Path
    transform: Affine
    paint: Drawn
    opacity: float = 1.0
    blend: BlendMode = "normal"
    course: Path | None = None
    course_width: float = 0.0


class FillText(FillPath, frozen=True, eq=False, kw_only=True):
    """Paint ``words``, whose outline ``path`` is."""

    words: TextForm


class FillUncovered(FillPath, frozen=True, eq=False, kw_only=True):
    """Paint what a copy of ``outline``, moved by ``move`` within its own coordinates, leaves uncovered of it.

    ``path`` is that area. It is cut when someone asks for it (``path.pending`` until then): who draws the outline and
    takes the moved copy away needs no cut.
    """

    outline: Path
    move: Affine


class StrokePath(msgspec.Struct, frozen=True, eq=False):
    """Paint a line of ``width`` along ``path``; width is measured before ``transform``."""

    path: Path
    transform: Affine
    paint: Paint
    width: float
    cap: Cap = "butt"
    join: Join = "miter"
    miter: float = 4.0
    opacity: float = 1.0
    blend: BlendMode = "normal"


class Clip(msgspec.Struct, frozen=True, eq=False):
    """A hard, antialiased clip to the inside of ``path``."""

    path: Path
    transform: Affine


class Layer(msgspec.Struct, frozen=True, eq=False):
    """Compose ``items`` on their own (isolated, not knocked out), blur, clip, then blend the result in.

    ``blur`` is a standard deviation in sheet units, only along ``blur_angle`` degrees where that is given; ``feather``
    fades the items out towards the edge of their silhouette: alpha times max(0, 2 b - 1), b being the silhouette
    blurred by it. Both act before ``clip``. A layer at rest (opacity 1, normal, neither blurred nor feathered nor
    ``isolated``) is a clip and nothing else: its items blend with what lies beneath it.

    The items of a layer that takes ``one_light`` away are soft silhouettes of one colour, the weakest first: where one
    covers all, those before it count no more.
    """

    items: tuple[Item, ...]
    opacity: float = 1.0
    blend: BlendMode = "normal"
    clip: Clip | None = None
    blur: float = 0.0
    blur_angle: float | None = None
    feather: float = 0.0
    isolated: bool = False
    one_light: bool = False

    @property
    def at_rest(self) -> bool:
        """Whether it is a clip and nothing else."""
        plain = self.opacity >= 1 and self.blend == "normal"
        return plain and not (self.softened or self.isolated or self.one_light)

    @property
    def softened(self) -> bool:
        """Whether its pixels are worked over as a whole."""
        return self.blur > 0 or self.feather > 0


class Soft(msgspec.Struct, frozen=True, eq=False):
    """A soft silhouette in one colour: the alpha of ``items``, shifted by ``offset``, blurred, coloured, clipped.

    Shadows and glows are made of it. Alpha of the source is the union of its items at full opacity. With a ``ramp``
    (straight RGBA at even steps of alpha from 0 to 1, linear between them) the blurred alpha picks colour and alpha.
    One that lies among what another object shows is ``thrown`` by the node with that id.
    """

    items: tuple[Item, ...]
    colour: Colour
    sigma: float
    offset: Point = (0.0, 0.0)
    opacity: float = 1.0
    blend: BlendMode = "normal"
    clip: Clip | None = None
    ramp: tuple[tuple[float, float, float, float], ...] = ()
    thrown: int | None = None


class Bitmap(msgspec.Struct, frozen=True, eq=False):
    """A reference picture of ``width`` x ``height`` units from the origin of ``transform``: for the canvas only."""

    asset: Asset
    transform: Affine
    width: float
    height: float
    opacity: float = 1.0
    blend: BlendMode = "normal"


Item = FillPath | StrokePath | Layer | Soft | Bitmap


class Chunk(msgspec.Struct, frozen=True, eq=False):
    """What one node contributes on its level: the unit of caching and of dirty regions.

    ``box`` covers everything the items can touch, in sheet units; ``node`` is the id they came from.
    """

    node: int
    items: tuple[Item, ...]
    box: Box


class Since(NamedTuple):
    """The chunks of an earlier picture, and how many of them are the same at the start and at the end of another's."""

    chunks: tuple[Chunk, ...]
    low: int
    end: int


class SpotInk(NamedTuple):
    """An ink with a plate of its own: its name, its look (encoded sRGB), and whether it overprints."""

    name: str
    rgb: tuple[float, float, float]
    overprints: bool = False


class Picture(msgspec.Struct, frozen=True, eq=False):
    """A sheet of ``width`` x ``height`` with chunks painted back to front over ``ground`` (None: clear).

    ``since`` tells what stayed since the picture that was composed before it, if that is known. ``inks`` are the spot
    inks of the palette, by the swatch that paints refer to.
    """

    width: float
    height: float
    ground: Colour | None
    chunks: tuple[Chunk, ...]
    since: Since | None = None
    inks: dict[int, SpotInk] = {}

    @property
    def items(self) -> tuple[Item, ...]:
        """The instructions of all chunks, back to front."""
        return tuple(i for c in self.chunks for i in c.items)


def one_colour(items: tuple[Item, ...]) -> Colour | None:
    """The opaque colour that all items share when they are plain fills, else None."""
    first: Colour | None = None
    for i in items:
        if not (isinstance(i, FillPath) and isinstance(i.paint, Solid) and i.blend == "normal" and i.opacity >= 1):
            return None
        if i.paint.colour.a < 1 or (first is not None and i.paint.colour != first):
            return None
        first = i.paint.colour
    return first


def shade_colour(layer: Layer) -> Colour | None:
    """The colour that a layer's items share when all are soft silhouettes of one colour, so that their alphas are
    united in that colour; else None."""
    if layer.softened or layer.at_rest or not layer.items:
        return None
    first = layer.items[0]
    if not isinstance(first, Soft):
        return None
    for i in layer.items:
        if not isinstance(i, Soft) or i.ramp or i.blend != "normal" or i.clip is not None or i.colour != first.colour:
            return None
    return first.colour


def in_plain_layers(layer: Layer) -> Layer:
    """A layer that takes one light away as one of soft silhouettes that lie on one another: each hides what is before
    it if it holds as much white as it lets light through, which shows alike where it multiplies.

    Where all are as strong as one another, or do not multiply, they stay as they are.
    """
    if not layer.one_light:
        return layer
    plain = replace(layer, one_light=False)
    softs = [i for i in layer.items if isinstance(i, Soft)]
    if layer.blend != "multiply" or len({i.opacity for i in softs}) == 1:
        return plain
    mixed = tuple([replace(i, colour=tinted(i.colour.with_alpha(1.0), i.opacity), opacity=1.0) for i in softs])
    return replace(plain, items=mixed, opacity=layer.opacity * softs[0].colour.a)
