"""Draw the pictures of the artists' chapters that are no views of the window."""

from __future__ import annotations

from pathlib import Path
from typing import get_args

from msgspec.structs import replace
from PIL import Image

from volumen.compose.scene import build
from volumen.demo.harbour_map import flat_map
from volumen.edit.first_light.light import first_light
from volumen.edit.first_light.styles import STYLES
from volumen.geometry.affine import translation
from volumen.model.ingredients import Body, CastShadow, Fill
from volumen.model.make import circle, solid
from volumen.model.nodes import Document, DropForm, Form, Group, Node, RectangleForm, Shape, Sheet, TextForm
from volumen.render.raster import render_bytes
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Solid, colour
from volumen.shading.plain_bodies import BodyKind

OUT = Path(__file__).parent.parent / "docs" / "artists"
PAPER, INK = "#efe9dc", "#20242a"
MATERIALS = ("clay", "enamel", "brass", "glass", "wax", "chrome")
COLOURS = ("#2b8577", "#c8402a", "#c98f35", "#3f7ea6", "#efe3cb", "#9aa3a8")
LAMP = Lamp(315.0, 42.0)


def word(text: str, x: float, y: float, k: int, size: float = 15.0) -> Shape:
    return Shape(k, text, TextForm(text, "Figtree", "Medium", size=size, x=x, y=y), (Fill(Solid(colour(INK))),))


def save(nodes: list[Node], width: float, height: float, name: str, lifts: bool = True, lamp: Lamp = LAMP) -> None:
    root = Group(0, "pile", tuple(nodes))
    document = Document(Sheet(width, height, colour(PAPER)), lamp, root, 10_000, lifts_add_up=lifts)
    Image.fromarray(render_bytes(build(document), 1.0)).convert("RGB").save(OUT / name, optimize=True)


def form_of(kind: str, x: float, y: float) -> Form:
    """An outline that suits a body, about a place."""
    if kind in ("tube", "fold"):
        return RectangleForm(x - 46, y - 20, 92, 40)
    if kind in ("cushion", "slab"):
        return RectangleForm(x - 44, y - 32, 88, 64, 12)
    if kind == "drop":
        return DropForm(x - 30, y - 42, 60, 80)
    return circle(x, y, 38)


def bodies() -> None:
    """Every body in some materials, all under one lamp."""
    nodes: list[Node] = []
    for row, (name, tone) in enumerate(zip(MATERIALS, COLOURS, strict=True)):
        y = 78.0 + 104 * row
        nodes.append(word(name, 14, y + 5, 1000 + row))
        for column, kind in enumerate(get_args(BodyKind)):
            x = 130.0 + 112 * column
            if not row:
                nodes.append(word(kind, x - 4 * len(kind), 24, 1100 + column))
            recipe = (solid(tone), Body(kind, name), CastShadow(0.5))
            nodes.append(Shape(len(nodes) + 1, kind, form_of(kind, x, y), recipe, lift=5.0))
    save(nodes, 980, 690, "4-bodies.png")


def heights() -> None:
    """One pile twice: lifts over what carries a sheet, and over all that lies beneath it."""
    halves = []
    for adds_up in (True, False):
        nodes: list[Node] = [word("lifts add up" if adds_up else "over all beneath", 24, 34, 50)]
        for k, (x, y, w, h, tone) in enumerate(
            ((40, 120, 250, 220, "#2b8577"), (110, 90, 230, 190, "#efe3cb"), (170, 130, 210, 160, "#c8402a"),
             (240, 105, 180, 120, "#f2c14e"))
        ):  # fmt: skip
            recipe = (solid(tone), CastShadow(0.6))
            nodes.append(Shape(k + 1, "sheet", RectangleForm(x, y, w, h, 10), recipe, lift=16.0))
        halves.append((nodes, adds_up))
    for (nodes, adds_up), name in zip(halves, ("4-up.png", "4-over.png"), strict=True):
        save(nodes, 480, 400, name, adds_up, Lamp(300.0, 38.0, size=0.25))
    joined((OUT / "4-up.png", OUT / "4-over.png"), OUT / "4-heights.png")


def joined(parts: tuple[Path, ...], out: Path) -> None:
    pictures = [Image.open(p) for p in parts]
    sheet = Image.new("RGB", (sum(p.width for p in pictures) + 12, pictures[0].height), "white")
    x = 0
    for part, picture in zip(parts, pictures, strict=True):
        sheet.paste(picture, (x, 0))
        x += picture.width + 12
        part.unlink()
    sheet.save(out, optimize=True)


def styles() -> None:
    """A flat drawing in all styles of first light."""
    flat, scale = flat_map(), 0.3
    width, height = round(flat.sheet.width * scale), round(flat.sheet.height * scale)
    sheet = Image.new("RGB", (4 * width + 36, 2 * (height + 30)), "white")
    for k, style in enumerate(STYLES):
        lit = first_light(flat, (), style.name)
        x, y = k % 4 * (width + 12), k // 4 * (height + 30)
        label = Document(Sheet(width, 30, colour("#ffffff")), LAMP, Group(0, "pile", (word(style.name, 4, 20, 1),)), 9)
        sheet.paste(Image.fromarray(render_bytes(build(label), 1.0)).convert("RGB"), (x, y))
        sheet.paste(Image.fromarray(render_bytes(build(lit), scale)).convert("RGB"), (x, y + 30))
    sheet.save(OUT / "4-styles.png", optimize=True)


def shadows() -> None:
    """Glass, clay, a coloured lamp, a second lamp: the same disc above the same paper."""
    nodes: list[Node] = []
    lamps = (LAMP, LAMP, replace(LAMP, colour=colour("#ffb060")), LAMP)
    for k, (name, lamp, what) in enumerate(zip(
        ("clay", "glass", "clay", "sea glass"), lamps, ("clay", "glass", "clay, warm lamp", "sea glass"), strict=True
    )):  # fmt: skip
        x = 110.0 + 215 * k
        body = (solid("#c8402a" if "glass" not in name else "#2b8577"), Body("ball", name), CastShadow(0.8))
        disc = Shape(k + 1, what, circle(0, 0, 52), body, lift=60.0, transform=translation(x, 110), own_lamp=lamp)
        nodes += [word(what, x - 40, 228, 60 + k), disc]
    save(nodes, 880, 250, "4-shadows.png")


if __name__ == "__main__":
    bodies()
    heights()
    styles()
    shadows()
