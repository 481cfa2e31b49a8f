"""What a document may hold: one table for fields, for what is set by hand, and for reading and writing files.

An edit that goes beyond is refused where it is made, so what is in a document can always be saved, and what was saved
can always be opened. ``docs/file-format.md`` tells the reasons of the limits.
"""

from __future__ import annotations

MAX_NUMBER = 1e9  # beyond, single precision loses whole units
MAX_LENGTH = 1e6
MAX_TEXT = 20_000
MAX_WHOLE = 2**31 - 1
MAX_ID = 10**9  # leaves room for new ones

MAX_DEPTH = 100  # levels of the tree: walks are recursive
MAX_NODES = 50_000  # all are shown in the pile and looked at by each build
MAX_DRAWN = 100_000  # pieces with all copies counted: a second of composing
MAX_JSON = 64 * 2**20  # bytes of the document as text, without its pictures: two seconds of reading
MAX_ASSETS = 192 * 2**20  # bytes of all placed pictures
MAX_FILE = MAX_JSON + MAX_ASSETS + 2**20  # the archive holds both, and is never larger than what it holds

# How many entries a row may have, by the name of the type and of the field, or of the field alone. What a hand makes
# stays far below; each of them is looked through for every frame.
MOST_ENTRIES: dict[str, int] = {
    "recipe": 200, "stops": 500, "receivers": 500, "dashes": 100, "omitted": 2000, "Block.own": 500,
    "Line.profile": 1000, "Thickness.profile": 1000,
    "WidthProfile.profile": 1000, "Bend.cage": 64, "own": 20_000, "runs": 20_000, "PathRun.points": 100_000,
    "MeshPaint.points": 40_000, "guides": 1000, "profiles": 500, "assets": 500, "swatches": 4096, "gradients": 1000,
    "looks": 500, "motifs": 500, "lamp_sets": 200, "materials": 500, "outputs": 200, "gone": 10_000, "added": 5000,
}  # fmt: skip

_SHARE = (0.0, 1.0)
_LENGTH = (0.0, MAX_LENGTH)
# By the name of the type and of the field; a name alone holds for every type that has the field.
LIMITS: dict[str, tuple[float, float]] = {
    "opacity": _SHARE, "light_opacity": _SHARE, "shade_opacity": _SHARE,
    "Colour.r": _SHARE, "Colour.g": _SHARE, "Colour.b": _SHARE, "Colour.a": _SHARE,
    "FirstLight.depth": (0.0, 2.0), "FirstLight.softness": _SHARE,
    "Stop.at": _SHARE, "Stop.middle": (0.001, 0.999), "Stop.grain": (0.0, 10.0),
    "Stop.tint": _SHARE, "Solid.tint": _SHARE,
    "Grain.amount": (0.0, 10.0), "Grain.size": (1e-3, MAX_LENGTH),
    "Speckle.amount": (0.0, 10.0), "Speckle.size": (1e-3, MAX_LENGTH),
    "Radial.radius": (1e-6, MAX_NUMBER),
    "Sheet.width": (1.0, MAX_LENGTH), "Sheet.height": (1.0, MAX_LENGTH),
    "Output.width": (0, 30_000), "Output.dpi": (36.0, 2400.0), "Output.depth": (8, 16), "Output.quality": (1, 100),
    "Sheet.bleed": (0.0, 1000.0), "Sheet.dpi": (36.0, 2400.0),
    "Lamp.height": (0.0, 90.0), "Lamp.strength": (0.0, 100.0), "Lamp.size": (0.0, 100.0),
    "Ambient.strength": (0.0, 100.0),
    "Rounding.radius": _LENGTH, "Offset.distance": (-MAX_LENGTH, MAX_LENGTH), "Thickness.width": _LENGTH,
    "Bend.count": (0.0, 1000.0),
    "Steps.count": (0, 500), "Steps.distance": (0.1, MAX_LENGTH), "Steps.shift": (-1.0, 1.0),
    "Ring.count": (1, 2000), "Ring.sweep": (-360.0, 360.0),
    "Grid.across": (1, 2000), "Grid.down": (1, 2000), "Grid.x": (-MAX_LENGTH, MAX_LENGTH),
    "Grid.y": (-MAX_LENGTH, MAX_LENGTH), "Grid.stagger": (-1.0, 1.0), "fade": _SHARE,
    "Ring.scale": (0.01, 10.0), "Grid.scale": (0.01, 10.0), "Ring.outward": (-MAX_LENGTH, MAX_LENGTH),
    "Scatter.count": (0, 5000), "Scatter.distance": _LENGTH, "Scatter.smallest": (0.01, 100.0),
    "Scatter.largest": (0.01, 100.0), "Scatter.tint": (0.0, 180.0), "Scatter.light": _SHARE,
    "Course.gap": (-MAX_LENGTH, MAX_LENGTH), "Course.first": (0.01, 100.0), "Course.last": (0.01, 100.0),
    "Course.across": (-MAX_LENGTH, MAX_LENGTH), "Course.start": _SHARE, "Course.most": (1, 2000),
    "broken": _SHARE, "Line.width": _LENGTH, "Line.miter": (1.0, 1000.0),
    "Body.strength": (0.0, 100.0), "Body.roundness": (0.0, 100.0), "Body.bounce": (0.0, 100.0),
    "Block.depth": _LENGTH, "Block.share": (0.0, 0.99), "Block.edge": _LENGTH, "Block.bevel": _LENGTH,
    "Sliver.depth": (-MAX_LENGTH, MAX_LENGTH), "Sliver.feather": _LENGTH, "Sliver.min_area": (0.0, MAX_NUMBER),
    "CastShadow.softness": _LENGTH, "CastShadow.length": (-MAX_LENGTH, MAX_LENGTH), "CastShadow.squash": (0.0, 100.0),
    "ContactShadow.size": _LENGTH, "Occlusion.reach": _LENGTH,
    "InnerShadow.depth": _LENGTH, "InnerShadow.softness": _LENGTH,
    "OuterGlow.size": _LENGTH, "OuterGlow.spread": _LENGTH, "InnerGlow.size": _LENGTH,
    "GroundGlow.width": (0.0, 1000.0), "GroundGlow.height": (0.0, 1000.0),
    "Relief.width": _LENGTH, "Relief.height": (0.0, 1000.0), "Relief.soften": _LENGTH, "Relief.gloss": (0.0, 100.0),
    "Relief.shininess": (0.0, 10_000.0),
    "Blur.size": _LENGTH, "Feather.size": _LENGTH, "Rim.distance": (-MAX_LENGTH, MAX_LENGTH),
    "Adjust.lightness": (-1.0, 1.0), "Adjust.chroma": (-1.0, 10.0), "Adjust.contrast": (-1.0, 10.0),
    "EllipseForm.sweep": (-360.0, 360.0),
    "RectangleForm.radius": _LENGTH, "PolygonForm.sides": (3, 1000), "StarForm.points": (2, 1000),
    "CloudForm.count": (3, 1000), "CloudForm.depth": (0.0, 1.5), "DropForm.bulge": _SHARE, "DropForm.point": _SHARE,
    "SpiralForm.turns": (-1000.0, 1000.0), "SpiralForm.outer": _LENGTH, "SpiralForm.inner": _LENGTH,
    "RaysForm.count": (1, 5000), "RaysForm.inner": _LENGTH, "RaysForm.reach": (0.1, MAX_LENGTH), "narrow": _SHARE,
    "wide": _SHARE, "widest": _SHARE, "RaysForm.start": _SHARE, "RaysForm.end": _SHARE, "RaysForm.gap": _LENGTH,
    "RaysForm.sweep": (-360.0, 360.0),
    "TextForm.size": (0.1, MAX_LENGTH), "TextForm.spacing": (-10.0, 1000.0), "TextForm.leading": (-100.0, 1000.0),
    "TextForm.start": (-100.0, 100.0), "CombinedForm.min_area": (0.0, MAX_NUMBER),
    "lift": (-MAX_LENGTH, MAX_LENGTH), "Press.limit": (0.0, 400.0), "Document.grid": (1e-3, MAX_LENGTH),
}  # fmt: skip


def limits(kind: str, field: str, whole: bool = False) -> tuple[float, float]:
    """The lowest and the highest value of a number, by the name of its type and of its field."""
    most = MAX_WHOLE if whole else MAX_NUMBER
    return LIMITS.get(f"{kind}.{field}") or LIMITS.get(field) or (-most, most)


def most(kind: str, field: str) -> int:
    """How many entries a row may have, by the name of its type and of the field that holds it."""
    return MOST_ENTRIES.get(f"{kind}.{field}") or MOST_ENTRIES.get(field) or MAX_NODES
