"""The ferry emblem: a mark of two colours whose depth comes from slivers and shadows alone."""

from __future__ import annotations

from volumen.library import (
    Blur,
    CastShadow,
    Document,
    Fill,
    Group,
    Ingredient,
    Lamp,
    Line,
    Pile,
    RectangleForm,
    Shape,
    Sheet,
    Sliver,
    Solid,
    circle,
    colour,
    corner,
    cusp,
    path_form,
    radial,
    smooth,
    solid,
)

SIDE = 794.0
SEA, BONE, PAPER = "#0f5257", "#efe3cb", "#f4efe4"
CX, CY = 397.0, 380.0


def _depth(shade: float = 10.0, light: float = 6.0, strength: float = 0.30) -> tuple[Ingredient, ...]:
    """The emblem's one setting of slivers, shared by all parts: shade, light, and a hair-thin edge light."""
    return (
        Sliver("shade", "shift", shade, opacity=strength, colour=colour("#0a2b33"), feather=0.0),
        Sliver("light", "shift", light, opacity=strength * 0.8, blend="screen"),
        Sliver("light", "shift", 1.3, opacity=0.75, blend="screen"),
    )


def ferry() -> Document:
    p = Pile()
    ground = p.shape("paper", RectangleForm(0, 0, SIDE, SIDE),
                     Fill(radial((320, 260), 760, (0, "#fbf8f0"), (0.6, PAPER), (1, "#ddd6c6"))), locked=True)  # fmt: skip
    foot = p.shape("ground shadow", circle(CX + 26, CY + 318, 262, 26), solid("#1c1a17", 0.30), Blur(15),
                   blend="multiply")  # fmt: skip
    rim = p.shape("rim", circle(CX, CY, 304), solid(BONE), *_depth(12, 9, 0.28), CastShadow(0.62), lift=20.0)
    sea = p.shape(
        "sea disc", circle(CX, CY, 280), solid(SEA),
        Sliver("shade", "shift", 26, sunk=True, opacity=0.45, colour=colour("#021c22"), feather=10),
        Sliver("shade", "shift", 7, sunk=True, opacity=0.4, colour=colour("#021c22"), feather=0),
        Sliver("light", "shift", 10, sunk=True, opacity=0.28, blend="screen", colour=colour("#7fd8cc"), feather=5),
        held=(_sun(p), _ship(p), *_waves(p)),
    )  # fmt: skip
    return p.document(Sheet(SIDE, SIDE, colour(PAPER)), Lamp(322, 48, 1.0, 0.30), ground, foot, rim, sea)


def _sun(p: Pile) -> Shape:
    return p.shape(
        "low sun", circle(CX, CY - 62, 186), solid("#1c6f70"), *_depth(14, 8, 0.34), CastShadow(0.5), lift=5.0
    )


def _ship(p: Pile) -> Group:
    hull = path_form(
        corner(CX - 172, CY + 8), corner(CX + 172, CY + 8),
        cusp(CX + 160, CY + 70, (8, -34), (-26, 74)), cusp(CX + 62, CY + 210, (54, -50), (0, 0)),
        cusp(CX - 62, CY + 210, (0, 0), (-54, -50)), cusp(CX - 160, CY + 70, (26, 74), (-8, -34)),
    )  # fmt: skip
    ramp = path_form(
        corner(CX - 58, CY + 40), corner(CX + 58, CY + 40), cusp(CX + 66, CY + 100, (0, -20), (-6, 34)),
        cusp(CX, CY + 196, (30, -26), (-30, -26)), cusp(CX - 66, CY + 100, (-6, 34), (0, -20)),
    )  # fmt: skip
    deck = path_form(
        corner(CX - 136, CY - 60), corner(CX + 136, CY - 60), corner(CX + 156, CY + 14), corner(CX - 156, CY + 14)
    )
    bridge = path_form(
        corner(CX - 92, CY - 126), corner(CX + 92, CY - 126), corner(CX + 108, CY - 54), corner(CX - 108, CY - 54)
    )
    funnel = path_form(
        corner(CX - 40, CY - 214), corner(CX + 40, CY - 214), corner(CX + 50, CY - 120), corner(CX - 50, CY - 120)
    )
    band = path_form(
        corner(CX - 60, CY - 190), corner(CX + 60, CY - 190), corner(CX + 60, CY - 164), corner(CX - 60, CY - 164)
    )
    windows = tuple(
        p.shape(f"window {i + 1}", RectangleForm(CX - 80 + i * 33.5, CY - 108, 26, 30, 5), solid(SEA),
                Sliver("shade", "shift", 6, sunk=True, opacity=0.55, colour=colour("#021c22")),
                Sliver("light", "shift", 2, sunk=True, opacity=0.5, blend="screen"))
        for i in range(5)
    )  # fmt: skip
    portholes = tuple(
        p.shape(f"porthole {i + 1}", circle(CX - 108 + i * 54, CY - 22, 13), solid(SEA),
                Sliver("shade", "shift", 6, sunk=True, opacity=0.55, colour=colour("#021c22")),
                Sliver("light", "shift", 2, sunk=True, opacity=0.5, blend="screen"))
        for i in range(5)
    )  # fmt: skip
    mast = p.shape("mast", path_form(corner(CX, CY - 262), corner(CX, CY - 205), closed=False),
                   Line(Solid(colour(BONE)), 8, "round"), CastShadow(0.4), lift=5.0)  # fmt: skip
    funnel_shape = p.shape("funnel", funnel, solid(BONE), *_depth(12), CastShadow(0.55), lift=6.0,
                           held=(p.shape("band", band, solid(SEA), *_depth(8)),))  # fmt: skip
    hull_shape = p.shape(
        "hull", hull, solid(BONE), *_depth(20, 9, 0.32), CastShadow(0.6), lift=12.0,
        held=(
            p.shape("bow doors", ramp, solid(SEA),
                    Sliver("shade", "shift", 12, sunk=True, opacity=0.5, colour=colour("#021c22")),
                    Sliver("light", "shift", 5, sunk=True, opacity=0.35, blend="screen", colour=colour("#9fe6da")),
                    Sliver("light", "shift", 1.2, sunk=True, opacity=0.7, blend="screen")),
            p.shape("stem", path_form(corner(CX, CY + 40), corner(CX, CY + 196), closed=False),
                    Line(Solid(colour(BONE)), 5)),
        ),
    )  # fmt: skip
    return p.group(
        "ship", mast, funnel_shape,
        p.shape("bridge", bridge, solid(BONE), *_depth(12), CastShadow(0.55), lift=8.0, held=windows),
        p.shape("deck", deck, solid(BONE), *_depth(13), CastShadow(0.55), lift=10.0, held=portholes),
        hull_shape,
    )  # fmt: skip


def _waves(p: Pile) -> tuple[Shape, ...]:
    """Three sheets of sea, each casting its shadow on the one behind."""
    out = []
    for i, (y, tone, lift) in enumerate(((128, "#17686a", 9.0), (172, BONE, 11.0), (214, SEA, 13.0))):
        left, step = CX - 330 + (i % 2) * 55, 110
        crest = [smooth(left + k * step, CY + y + (0 if k % 2 else 26), 40, 0) for k in range(7)]
        form = path_form(*crest, corner(CX + 400, CY + 320), corner(CX - 400, CY + 320))
        out.append(p.shape(f"wave {i + 1}", form, solid(tone), *_depth(9, 7, 0.30), CastShadow(0.62), lift=lift))
    return tuple(out)
