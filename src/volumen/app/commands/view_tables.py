"""The commands of the menus Ingredient, Light and View, as tables for the registry."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from volumen.app.canvas.tools import TOOLS
from volumen.app.canvas.tools.base import Tool
from volumen.app.commands.desk import Desk
from volumen.app.commands.needs import Needs
from volumen.app.commands.view_acts import ViewActs
from volumen.app.state.news import Stage
from volumen.app.state.registry import NOTHING, Command, Registry, Shown
from volumen.app.widgets.waiting import Waiting
from volumen.edit import lifting, lights
from volumen.edit.first_light.light import first_light, last_asked
from volumen.edit.looks import PAIRS
from volumen.edit.variants import KINDS as VARIANTS
from volumen.geometry.snap import KINDS
from volumen.model.catalogue.ingredients import OFFERS
from volumen.picture.stopping import Stopped


def register_ingredients(w: Desk, n: Needs, r: Registry) -> None:
    """Each ingredient in the submenu of its part of the recipe."""
    for offer, row in OFFERS:
        if offer.id:
            toolbox = tuple(Shown(Stage[spot.stage], spot.at, spot.folded) for spot in offer.spots)
            r.add(
                Command(
                    f"add.{offer.id}", f"Add {offer.title.lower()}", f"Ingredient/{row.heading}",
                    partial(w.add_ingredient, offer.ingredient), n.any, offer.keys, words=offer.words,
                    icon=offer.icon or row.icon, short=offer.short, toolbox=toolbox,
                )
            )  # fmt: skip
    for title, pair in PAIRS.items():
        action = partial(w.add_pair, pair)
        name = title.split(":")[0].lower()
        r.add(Command(f"add.{name}", f"Add {title.lower()}", "Ingredient/Light", action, n.any))


def register_light(w: Desk, n: Needs, r: Registry) -> None:
    s = w.session

    def own(lamp: bool, unlit: bool) -> None:
        found = s.document.lamp if lamp else None
        s.apply("own lamp" if lamp else "follow the lamps", lights.with_own_lamp(s.document, s.selection, found, unlit))

    def first() -> None:
        asked = last_asked(s.document)
        try:
            with Waiting(w.dialog_parent, "First light", "Looking at the pieces …") as waiting:
                document = first_light(s.document, s.selection, asked.style, asked.depth, asked.softness, waiting.stops)
        except Stopped:
            s.say("first light was stopped; nothing has changed")
            return
        record = document.first_light
        if record is not None and record.left and not record.given:
            s.say("all that was lit was changed by hand and stays as it is: select it to light it anew")
            return
        if record is None or not record.given:
            s.say("there is nothing to light: first light is for filled shapes")
            return
        s.apply("first light", document)
        s.set_stage(Stage.LIGHT)

    r.add(
        Command(
            "light.first", "First light: light the selection, or all", "Light", first, NOTHING, "Shift+B",
            words="bodies edges shadows at once style", icon="sunset", short="First light",
            toolbox=(Shown(Stage.LIGHT, 5),),
        )
    )  # fmt: skip
    for ready in lights.READY:
        switch = partial(lambda f: s.apply(f"lights: {f.name}", s.document.with_lights(f.lights)), ready)
        r.add(Command(f"light.set_{ready.name}", f"Lights: {ready.name}", "Light", switch, words="lamp setting"))
    add_up = "Lifts add up: sheets stand on what carries them"
    r.add(
        Command(
            "light.add_up", add_up, "Light", lambda: s.apply(*lifting.switched(s.document)), words="stack pile height",
            checked=lambda: s.document.lifts_add_up,
        )
    )  # fmt: skip
    for k, kind in enumerate(VARIANTS):
        show, title, menu = partial(w.choose_by_eye, kind), f"Choose by eye: {kind}", "Light/Choose by eye"
        made = Command(f"choose.{kind}", title, menu, show, NOTHING, "" if k else "Ctrl+J")
        r.add(made if k else replace(made, icon="grid-3x3", short="Choose by eye", toolbox=(Shown(Stage.LIGHT, 70),)))
    for name, title, lamp, unlit in (
        ("own", "Keep the lamp of now for the selection alone", True, False),
        ("unlit", "Let the selection ignore all lamps", False, True),
        ("follow", "Let the selection follow the lamps", False, False),
    ):
        r.add(Command(f"light.{name}", title, "Light", partial(own, lamp, unlit), n.any, section=name == "own"))


def register_view(w: Desk, n: Needs, r: Registry) -> None:
    s, c = w.session, w.canvas
    for stage in Stage:
        here = partial(lambda k: s.stage == k, stage)
        go, title = partial(s.set_stage, stage), f"Stage {stage + 1}: {stage.title}"
        r.add(Command(f"view.stage{stage + 1}", title, "View", go, keys=f"F{stage + 2}", checked=here))
    flat, values = (lambda: s.set_flat(not s.flat)), (lambda: s.set_look(values=not s.values))
    r.add(
        Command("view.flat", "Flat or lit", "View", flat, keys=".", section=True),
        Command("view.values", "Values only", "View", values, keys=",", checked=lambda: s.values, words="grey squint"),
        Command(
            "view.compare",
            "Compare with another state",
            "View",
            w.compare,
            keys=";",
            words="wipe before after difference",
        ),
        Command("view.in", "Zoom in", "View/Zoom", lambda: c.zoom(1.25), keys="Ctrl++", more_keys=("Ctrl+=",)),
        Command("view.out", "Zoom out", "View/Zoom", lambda: c.zoom(0.8), keys="Ctrl+-"),
        Command("view.fit", "Fit the sheet", "View/Zoom", ViewActs(w).fit, keys="Ctrl+0"),
        Command("view.fit_selection", "Fit the selection", "View/Zoom", c.fit_selection, n.any, keys="Ctrl+9"),
        Command("view.actual", "Actual size", "View/Zoom", lambda: c.zoom(1 / c.viewport.scale), keys="Ctrl+1"),
        Command("view.full", "Full screen", "View", w.toggle_full, keys="F11"),
    )
    _panels_and_snapping(w, ViewActs(w), n, r)
    for tool in sorted(TOOLS, key=lambda t: t.toolbox[0][:2]):
        r.add(_tool_command(w, tool))


def _tool_command(w: Desk, tool: type[Tool]) -> Command:
    """The command that takes a tool, read off its row: what its class says of itself."""
    s, title = w.session, tool.name.capitalize()
    return Command(
        f"tool.{tool.name}", f"Tool: {title}", f"View/{tool.toolbox[0].stage.title} tools", partial(w.take_tool, tool.name),
        keys=tool.keys, checked=lambda: s.tool == tool.name, icon=tool.icon, short=title, toolbox=tool.toolbox,
        tool=tool.name, key_hint=tool.key_hint,
    )  # fmt: skip


def _panels_and_snapping(w: Desk, looking: ViewActs, n: Needs, r: Registry) -> None:
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
        Command("view.clear_guides", "Remove all guides", "View", looking.clear_guides, n.guides),
        Command(
            "view.guide_colour",
            "Guides and handles in another colour",
            "View",
            looking.recolour_guides,
            keys="Ctrl+Alt+G",
        ),
        Command("view.snap", "Snapping", "View/Snapping", snap, keys="N", checked=lambda: s.snapping),
    )
    for kind in KINDS:
        is_on = partial(lambda k: k in s.snap_kinds, kind)
        go = partial(looking.toggle_kind, kind)
        r.add(Command(f"snap.{kind}", f"Snap to {kind}", "View/Snapping", go, section=kind == KINDS[0], checked=is_on))
