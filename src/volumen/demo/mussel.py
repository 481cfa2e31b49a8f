"""The mussel shell: a gradient mesh fitted to a photograph that lies beside it."""

from __future__ import annotations

import msgspec
import numpy as np

from volumen.demo.photograph import photograph
from volumen.formats.bitmaps import png_bytes
from volumen.formats.native import asset_key
from volumen.geometry.path import Path
from volumen.library import (
    Asset,
    CastShadow,
    Colour,
    Document,
    Fill,
    Group,
    Image,
    Lamp,
    Line,
    Mirror,
    Pile,
    RectangleForm,
    Shape,
    Sheet,
    Sliver,
    Solid,
    Swatch,
    TextForm,
    colour,
    cusp,
    path_form,
    radial,
    smooth,
    solid,
)
from volumen.outline.forms import run_contour
from volumen.shading.mesh_fit import fit
from volumen.shading.mesh_make import four_sided
from volumen.shading.mesh_paints import to_paint

WIDE, HIGH = 980.0, 640.0
PHOTO = (380, 520)
AT, SHELL_AT = (60.0, 50.0), (520.0, 50.0)
PAPER = "#efe9dd"
SHELL = path_form(
    smooth(92, 62, 26, -34), smooth(214, 70, 44, 26), smooth(312, 236, 14, 62), smooth(276, 428, -30, 48),
    smooth(176, 470, -42, -2), smooth(96, 362, -20, -62), smooth(66, 182, -4, -60),
)  # fmt: skip
COLUMNS, ROWS = 9, 12


def mussel() -> Document:
    p = Pile()
    outline = Path(tuple(run_contour(run) for run in SHELL.runs))
    rgb = photograph(outline, (110, 66), *PHOTO)
    rgba = np.dstack([rgb, np.ones(rgb.shape[:2])])
    data = png_bytes(np.round(rgba * 255).astype(np.uint8))
    blank = four_sided(outline, COLUMNS, ROWS, lambda at: np.tile([0.3, 0.3, 0.4, 1.0], (len(at), 1)))
    mesh = fit(blank, rgba, positions=4).mesh
    place = (1.0, 0.0, 0.0, 1.0, *SHELL_AT)
    parts = (
        p.shape("table", RectangleForm(0, 0, WIDE, HIGH),
                Fill(radial((420, 160), 900, (0, "#f8f4ea"), (1, "#ddd4c3"))), locked=True),
        Image(p.take(), "photograph", asset_key(data), float(PHOTO[0]), float(PHOTO[1]), transform=(1.0, 0, 0, 1.0, *AT)),
        Shape(p.take(), "shell", SHELL, (Fill(to_paint(mesh)), CastShadow(0.55, softness=9.0)), transform=place, lift=20.0),
        _label(p, "photograph", AT[0]), _label(p, "gradient mesh, fitted", SHELL_AT[0]),
        _weed(p, SHELL_AT[0] + PHOTO[0] / 2),
    )  # fmt: skip
    document = p.document(Sheet(WIDE, HIGH, colour(PAPER)), Lamp(320, 48, 1.0, 0.4), *parts)
    tones = [
        ("rim", "#5b6083"),
        ("night", "#1b2239"),
        ("growth ring", "#2a3550"),
        ("tip", "#4c3524"),
        ("gloss", "#c3c9d8"),
    ]
    swatches = tuple(Swatch(k + 1, name, Colour(*colour(c).rgb), "mussel") for k, (name, c) in enumerate(tones))
    palette = msgspec.structs.replace(document.palette, swatches=swatches, next_id=len(swatches) + 1)
    return msgspec.structs.replace(document, assets=(Asset(asset_key(data), data),), palette=palette)


def _weed(p: Pile, x: float) -> Group:
    """A sprig of weed beside the words, and its mirror image on their other side."""
    y, leaf = HIGH - 40, "#7c8a72"
    stem = p.shape(
        "stem",
        path_form(smooth(x - 176, y + 5, 14, -9), smooth(x - 116, y, 20, 6), closed=False),
        Line(Solid(colour("#68765f")), 1.8, "round"),
    )
    leaves = [
        p.shape("leaf", path_form(cusp(x - 172 + 15 * k, y, (2, side * 7), (1, side * 9)), cusp(x - 156 + 15 * k, y + side * 14, (-12, 0), (0, -side * 9))), solid(leaf), Sliver("shade", depth=1.5, opacity=0.3))
        for k, side in ((0, -1), (1, 1), (2, -1), (3, 1))
    ]  # fmt: skip
    return p.group("weed", stem, *leaves, recipe=(Mirror((x, y)),))


def _label(p: Pile, text: str, x: float) -> Shape:
    form = TextForm(text, "Figtree", "SemiBold", 19, x + PHOTO[0] / 2, HIGH - 34, 0.04, align="centre")
    return p.shape(text, form, solid("#5d5a52"))
