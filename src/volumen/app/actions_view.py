"""The commands of the menus Ingredient, Light and View, as tables for the registry."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from volumen.app.commands import NOTHING, Command, Registry
from volumen.app.fields import CARDS, defaults
from volumen.app.needs import Needs
from volumen.app.operations_more import MoreOperations
from volumen.app.session import STAGES
from volumen.edit import lights
from volumen.edit.looks import PAIRS
from volumen.edit.variants import KINDS as VARIANTS
from volumen.geometry.snap import KINDS

if TYPE_CHECKING:
    from volumen.app.window import Window

_DRAW, _CARVE, _COLOUR, _LIGHT = (f"{s} tools" for s in STAGES[:4])
TOOL_KEYS = (
    (_DRAW, "Move", "M"), (_DRAW, "Ellipse", "E"), (_DRAW, "Rectangle", "R"), (_DRAW, "Polygon", "Shift+R"),
    (_DRAW, "Star", "Shift+E"), (_DRAW, "Drop", "Shift+O"), (_DRAW, "Cloud", "Shift+C"), (_DRAW, "Segment", "Shift+L"),
    (_DRAW, "Arc", "Shift+A"), (_DRAW, "Spiral", "Shift+Q"), (_DRAW, "Pen", "P"), (_DRAW, "Freehand", "H"),
    (_DRAW, "Nib", "I"), (_DRAW, "Points", "O"), (_DRAW, "Text", "T"), (_DRAW, "Guides", "J"),
    (_DRAW, "Level", "Shift+H"), (_CARVE, "Areas", "A"), (_CARVE, "Rounding", "C"), (_CARVE, "Bend", "Q"),
    (_CARVE, "Widths", "X"), (_COLOUR, "Spindle", "G"), (_COLOUR, "Eyedropper", "Y"), (_COLOUR, "Ramp", ""),
    (_COLOUR, "Mesh", "V"), (_COLOUR, "Recolour", "Shift+G"), (_COLOUR, "Match", ""), (_LIGHT, "Lamp", ""),
    (_LIGHT, "Light check", ""),
)  # fmt: skip
_WORDS = {
    "Cast shadow": "drop shadow", "Outer glow": "halo shine", "Feathered edge": "soft fade", "Grain": "noise texture",
    "Colour shift": "hue tint", "Rim": "contour sticker border", "Offset": "inset parallel", "Rounding": "corners",
    "Thickness": "width", "Relief": "bevel emboss", "Line": "stroke outline", "Fill": "paint colour",
    "Body: ball": "volume sphere", "Closed seams": "hairlines gaps",
}  # fmt: skip


def register_ingredients(w: Window, n: Needs, r: Registry) -> None:
    """Each ingredient in the submenu of its part of the recipe."""
    offered = defaults()
    for name, title, keys in (
        ("rounding", "Rounding", ""), ("offset", "Offset", ""), ("bend", "Bend", ""), ("thickness", "Thickness", ""),
        ("fill", "Fill", "F"), ("line", "Line", "K"), ("body", "Body: ball", "B"),
        ("sliver", "Sliver of shade", "S"), ("light", "Sliver of light", "Shift+S"),
        ("edge_light", "Edge light, a hair wide", ""), ("relief", "Relief", ""), ("shadow", "Cast shadow", "D"),
        ("contact", "Contact shadow", ""), ("inner_shadow", "Inner shadow", ""), ("glow", "Outer glow", "W"),
        ("inner_glow", "Inner glow", ""), ("ground_glow", "Ground glow", ""), ("blur", "Blur", "U"),
        ("feather", "Feathered edge", ""), ("grain", "Grain", ""), ("adjust", "Colour shift", ""), ("rim", "Rim", ""),
        ("seams", "Closed seams", ""),
    ):  # fmt: skip
        menu = f"Ingredient/{CARDS[type(offered[title])].heading}"
        action, words = partial(w.recipe.add, offered[title]), _WORDS.get(title, "")
        r.add(Command(f"add.{name}", f"Add {title.lower()}", menu, action, n.any, keys, words=words))
    for title, pair in PAIRS.items():
        action = partial(w.recipe.add_pair, pair)
        name = title.split(":")[0].lower()
        r.add(Command(f"add.{name}", f"Add {title.lower()}", "Ingredient/Light", action, n.any))


def register_light(w: Window, n: Needs, r: Registry) -> None:
    s = w.session

    def own(lamp: bool, unlit: bool) -> None:
        found = s.document.lamp if lamp else None
        s.apply("own lamp" if lamp else "follow the lamps", lights.with_own_lamp(s.document, s.selection, found, unlit))

    for ready in lights.READY:
        switch = partial(lambda f: s.apply(f"lights: {f.name}", s.document.with_lights(f.lights)), ready)
        r.add(Command(f"light.set_{ready.name}", f"Lights: {ready.name}", "Light", switch, words="lamp setting"))
    for k, kind in enumerate(VARIANTS):
        show, keys = partial(w.choosing.show_kind, kind), "" if k else "Ctrl+J"
        r.add(Command(f"choose.{kind}", f"Choose by eye: {kind}", "Light/Choose by eye", show, NOTHING, keys))
    for name, title, lamp, unlit in (
        ("own", "Keep the lamp of now for the selection alone", True, False),
        ("unlit", "Let the selection ignore all lamps", False, True),
        ("follow", "Let the selection follow the lamps", False, False),
    ):
        r.add(Command(f"light.{name}", title, "Light", partial(own, lamp, unlit), n.any, section=name == "own"))


def register_view(w: Window, more: MoreOperations, n: Needs, r: Registry) -> None:
    s, c = w.session, w.canvas
    for i, name in enumerate(STAGES):
        here = partial(lambda k: s.stage == k, i)
        go = partial(s.set_stage, i)
        r.add(Command(f"view.stage{i + 1}", f"Stage {i + 1}: {name}", "View", go, keys=f"F{i + 2}", checked=here))
    flat, values = (lambda: s.set_flat(not s.flat)), (lambda: s.set_look(values=not s.values))
    r.add(
        Command("view.flat", "Flat or lit", "View", flat, keys=".", section=True),
        Command("view.values", "Values only", "View", values, keys=",", checked=lambda: s.values, words="grey squint"),
        Command("view.in", "Zoom in", "View/Zoom", lambda: c.zoom(1.25), keys="Ctrl++", more_keys=("Ctrl+=",)),
        Command("view.out", "Zoom out", "View/Zoom", lambda: c.zoom(0.8), keys="Ctrl+-"),
        Command("view.fit", "Fit the sheet", "View/Zoom", c.fit, keys="Ctrl+0"),
        Command("view.fit_selection", "Fit the selection", "View/Zoom", c.fit_selection, n.any, keys="Ctrl+9"),
        Command("view.actual", "Actual size", "View/Zoom", lambda: c.zoom(1 / c.viewport.scale), keys="Ctrl+1"),
        Command("view.full", "Full screen", "View", w.toggle_full, keys="F11"),
    )
    _panels_and_snapping(w, more, n, r)
    for menu, title, keys in TOOL_KEYS:
        name = title.lower()
        held = partial(lambda k: s.tool == k, name)
        take = partial(w.take_tool, name)
        r.add(Command(f"tool.{name}", f"Tool: {title}", f"View/{menu}", take, keys=keys, checked=held))


def _panels_and_snapping(w: Window, more: MoreOperations, n: Needs, r: Registry) -> None:
    s = w.session
    for side in ("left", "right"):
        fold, shown = partial(w.fold, side), partial(lambda k: not w.folded(k), side)
        what = "tools and pile" if side == "left" else "recipe"
        r.add(
            Command(
                f"view.{side}", f"Show the {side} panel: {what}", "View", fold, checked=shown, section=side == "left"
            )
        )
    snap, rulers = (lambda: s.set_look(snapping=not s.snapping)), (lambda: s.set_look(rulers=not s.rulers))
    r.add(
        Command("view.rulers", "Rulers", "View", rulers, keys="Ctrl+Shift+R", checked=lambda: s.rulers, section=True),
        Command("view.clear_guides", "Remove all guides", "View", more.clear_guides, n.guides),
        Command(
            "view.guide_colour", "Guides and handles in another colour", "View", more.recolour_guides, keys="Ctrl+Alt+G"
        ),
        Command("view.snap", "Snapping", "View/Snapping", snap, keys="N", checked=lambda: s.snapping),
    )
    for kind in KINDS:
        is_on = partial(lambda k: k in s.snap_kinds, kind)
        go = partial(more.toggle_kind, kind)
        r.add(Command(f"snap.{kind}", f"Snap to {kind}", "View/Snapping", go, section=kind == KINDS[0], checked=is_on))
