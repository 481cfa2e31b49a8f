"""All commands of the window, as tables for the registry."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, get_args

from volumen.app.commands import Command, Registry
from volumen.app.fields import defaults
from volumen.app.operations import Operations
from volumen.app.operations_colour import ColourOperations
from volumen.app.operations_more import MoreOperations
from volumen.app.session import STAGES
from volumen.edit import lights
from volumen.edit.looks import PAIRS
from volumen.edit.search import Likeness
from volumen.edit.variants import KINDS as VARIANTS
from volumen.geometry.snap import KINDS
from volumen.model.nodes import COMBININGS

if TYPE_CHECKING:
    from volumen.app.window import Window

MENUS = ("File", "Edit", "Object", "Combine", "Colour", "Light", "View", "Help")
FAR = 10**6
TOOL_KEYS = (
    ("Move", "M"), ("Ellipse", "E"), ("Rectangle", "R"), ("Polygon", "Shift+R"), ("Star", "Shift+E"), ("Drop", "Shift+O"),
    ("Cloud", "Shift+C"), ("Segment", "Shift+L"), ("Arc", "Shift+A"), ("Spiral", "Shift+Q"), ("Pen", "P"),
    ("Freehand", "H"), ("Nib", "I"), ("Points", "O"), ("Text", "T"), ("Guides", "J"), ("Level", "Shift+H"),
    ("Areas", "A"), ("Rounding", "C"), ("Bend", "Q"), ("Widths", "X"), ("Spindle", "G"), ("Eyedropper", "Y"),
    ("Ramp", ""), ("Mesh", "V"), ("Recolour", "Shift+G"), ("Match", ""), ("Lamp", ""), ("Light check", ""),
)  # fmt: skip


def register(window: Window, registry: Registry) -> None:
    do, more = Operations(window), MoreOperations(window)
    _file(window, registry)
    _edit(window, do, more, registry)
    _object(window, do, more, registry)
    _combine(do, more, registry)
    _ingredients(window, do, registry)
    _colour(window.colour, registry)
    _light(window, do, registry)
    _view(window, more, registry)
    registry.add(
        Command("help.keys", "Keys and commands", "Help", window.show_help, keys="F1"),
        Command("help.list", "Find a command", "Help", window.show_command_list, keys="Ctrl+Space"),
        Command("help.about", "About Volumen", "Help", window.show_about, section=True),
    )


def _file(w: Window, r: Registry) -> None:
    f = w.files
    r.add(
        Command("file.new", "New sheet", "File", f.new, keys="Ctrl+N"),
        Command("file.open", "Open …", "File", f.open, keys="Ctrl+O"),
        Command("file.save", "Save", "File", f.save, keys="Ctrl+S", section=True),
        Command("file.save_as", "Save as …", "File", f.save_as, keys="Ctrl+Shift+S"),
        Command("file.place", "Place a picture or SVG …", "File", w.exchange.place, keys="Ctrl+Shift+O"),
        Command("file.export", "Export", "File", w.export, keys="Ctrl+E", section=True),
        Command("file.quit", "Quit", "File", w.close, keys="Ctrl+Q", section=True),
    )


def _edit(w: Window, do: Operations, more: MoreOperations, r: Registry) -> None:
    def edit(
        name: str,
        title: str,
        action: Callable[[], object],
        enabled: Callable[[], bool],
        *keys: str,
        section: bool = False,
    ) -> None:
        r.add(Command(f"edit.{name}", title, "Edit", action, enabled, keys[0] if keys else "", section, keys[1:]))

    always = partial(bool, 1)
    edit("undo", "Undo", do.undo, always, "Ctrl+Z")
    edit("redo", "Redo", w.session.redo, do.can_redo, "Ctrl+Shift+Z", "Ctrl+Y")
    edit("cut", "Cut", do.cut, do.any, "Ctrl+X", section=True)
    edit("copy", "Copy", w.exchange.copy, do.any, "Ctrl+C")
    edit("paste", "Paste", w.exchange.paste, always, "Ctrl+V")
    edit("paste_above", "Paste in place above", partial(w.exchange.paste, "above"), always, "Ctrl+Shift+V")
    edit("paste_below", "Paste in place below", partial(w.exchange.paste, "below"), always, "Ctrl+Alt+Shift+V")
    edit("duplicate", "Duplicate", do.duplicate, do.any, "Ctrl+D")
    edit("delete", "Delete", do.delete, do.any, "Del", "Backspace")
    edit("all", "Select all", do.select_all, always, "Ctrl+A", section=True)
    edit("none", "Select nothing", do.select_nothing, always, "Ctrl+Shift+A")
    for by in get_args(Likeness):
        keys = "Ctrl+Alt+A" if by == "look" else ""
        edit(f"same_{by}", f"Select the same {by}", partial(more.select_alike, by), do.any, keys)
    edit("duplicates", "Select duplicates lying on one another", more.select_duplicates, always, "")
    edit("strays", "Select stray points and empty shapes", more.select_strays, always, "")
    edit("copy_recipe", "Copy the recipe", w.copy_recipe, do.any, "Ctrl+Alt+C", section=True)
    edit("paste_recipe", "Apply the copied recipe", w.paste_recipe, do.has_recipe, "Ctrl+Alt+V")
    for way, dx, dy in (("Left", -1, 0), ("Right", 1, 0), ("Up", 0, -1), ("Down", 0, 1)):
        near, far = partial(do.nudge, dx, dy), partial(do.nudge, 10 * dx, 10 * dy)
        edit(f"nudge_{way}", f"Nudge {way.lower()}", near, do.any, way, section=way == "Left")
        edit(f"nudge_{way}_far", f"Nudge {way.lower()} by 10", far, do.any, f"Shift+{way}")


def _object(w: Window, do: Operations, more: MoreOperations, r: Registry) -> None:
    def add(
        name: str,
        title: str,
        action: Callable[[], object],
        enabled: Callable[[], bool],
        keys: str = "",
        section: bool = False,
    ) -> None:
        r.add(Command(f"object.{name}", title, "Object", action, enabled, keys, section))

    add("group", "Group", do.group, do.any, "Ctrl+G")
    add("ungroup", "Ungroup, or release what is held", do.ungroup, do.has_children, "Ctrl+Shift+G")
    add("hold", "Hold inside the back-most shape", do.hold, do.several, "Ctrl+H")
    add("front", "To the front", partial(do.restack, FAR), do.any, "Ctrl+Shift+Up", True)
    add("forward", "One up", partial(do.restack, 1), do.any, "Ctrl+Up")
    add("backward", "One down", partial(do.restack, -1), do.any, "Ctrl+Down")
    add("back", "To the back", partial(do.restack, -FAR), do.any, "Ctrl+Shift+Down")
    add("knockout", "Knockout: let the stock show through", more.knockout, do.any, "", True)
    add("isolate", "Work inside this branch alone, or leave it", more.isolate, do.any_or_isolated, "Ctrl+I")
    add("copy_linked", "Linked copy", do.copy_linked, do.any, "Ctrl+Alt+D", True)
    add("link", "Link: all become like the first", do.link, do.several)
    add("unlink", "Unlink", do.unlink, do.any_linked)
    add("select_linked", "Select all that are linked", do.select_linked, do.any_linked)
    add("again", "Transform again", w.arranger.again, do.any, "Ctrl+Shift+D", True)
    add("mirror_across", "Mirror left and right", partial(w.arranger.mirror, 90), do.any, "Ctrl+M")
    add("mirror_down", "Mirror top and bottom", partial(w.arranger.mirror, 0), do.any, "Ctrl+Shift+M")
    add("mirror_copy", "Mirrored copy, left and right", partial(w.arranger.mirror, 90, True), do.any, "Ctrl+Alt+M")
    for edge in ("left", "centre", "right", "top", "middle", "bottom"):
        add(f"align_{edge}", f"Align {edge}", partial(w.arranger.align, edge), do.any, "", edge == "left")
    add("text_on_path", "Set text on the path", more.set_on_path, more.can_set_on_path, "", True)
    add("text_off_path", "Take text off its path", more.take_off_path, more.text_on_path)
    add("dim", "Dim the reference image, or show it in full", more.dim, do.any)
    add("rename", "Rename", w.pile.rename_selected, do.any, "Ctrl+R", True)
    add("hide", "Show or hide", partial(do.flip, "visible"), do.any, "Ctrl+3")
    add("lock", "Lock or unlock", partial(do.flip, "locked"), do.any, "Ctrl+2")
    add("keep_vector", "Keep vector on export, or not", partial(do.flip, "keep_vector"), do.any)
    add("to_path", "Form to path", do.to_path, do.is_primitive, "", True)
    add("freeze", "Freeze to plain shapes", do.freeze, do.can_freeze, "Ctrl+Shift+F")


def _combine(do: Operations, more: MoreOperations, r: Registry) -> None:
    for operation in COMBININGS:
        title = operation.capitalize() + (" from the back-most" if operation == "subtract" else "")
        name = operation.replace(" ", "_")
        live, once = partial(more.combine, operation), partial(more.combine, operation, False)
        r.add(
            Command(f"combine.{name}", f"{title}, live", "Combine", live, do.several, section=operation == "divide"),
            Command(f"combine.{name}_once", f"{title}, once and for all", "Combine", once, do.several),
        )
    r.add(
        Command("combine.release", "Release the members", "Combine", do.release, more.combined, section=True),
    )  # fmt: skip


def _colour(c: ColourOperations, r: Registry) -> None:
    always = partial(bool, 1)

    def add(name: str, title: str, call: Callable[[], object], enabled: Callable[[], bool] = always, keys: str = "", section: bool = False) -> None:  # fmt: skip
        r.add(Command(f"colour.{name}", title, "Colour", call, enabled, keys, section))

    add("blend", "Blend in steps", c.blend, c.can_blend, "Ctrl+B")
    add("spine", "Lay the steps along the path", c.take_spine, c.can_take_spine)
    add("hatch", "Hatch the shape", c.hatch, c.one_shape)
    add("shade_form", "Shaded form from the shape", c.shade_form, c.one_shape)
    add("as_one", "One gradient across the selection", c.as_one, c.can_blend, section=True)
    add("keep_gradient", "Keep this gradient in the palette", c.keep_gradient, c.one_shape)
    add("keep_colour", "Keep the colour in use", c.keep_colour, section=True)
    add("keep_look", "Keep this look in the palette", c.keep_look)
    add("from_selection", "Swatches from the selection", c.from_selection)
    add("from_picture", "Swatches from the reference picture", c.from_picture)
    add("read_palette", "Read a palette …", c.read_palette, section=True)
    add("write_palette", "Write the palette …", c.write_palette)


def _light(w: Window, do: Operations, r: Registry) -> None:
    s = w.session

    def own(lamp: bool, unlit: bool) -> None:
        found = s.document.lamp if lamp else None
        s.apply("own lamp" if lamp else "follow the lamps", lights.with_own_lamp(s.document, s.selection, found, unlit))

    def add(name: str, title: str, lamp: bool, unlit: bool, section: bool = False) -> None:
        r.add(Command(f"light.{name}", title, "Light", partial(own, lamp, unlit), do.any, section=section))

    for found in lights.READY:
        switch = partial(lambda f: s.apply(f"lights: {f.name}", s.document.with_lights(f.lights)), found)
        r.add(Command(f"light.set_{found.name}", f"Lights: {found.name}", "Light", switch))
    for k, kind in enumerate(VARIANTS):
        show = partial(w.choosing.show_kind, kind)
        r.add(
            Command(
                f"choose.{kind}", f"Choose by eye: {kind}", "Light", show, keys="Ctrl+J" if not k else "", section=not k
            )
        )
    add("own", "Keep the lamp of now for the selection alone", True, False, True)
    add("unlit", "Let the selection ignore all lamps", False, True)
    add("follow", "Let the selection follow the lamps", False, False)


def _ingredients(w: Window, do: Operations, r: Registry) -> None:
    offered = defaults()
    for name, title, keys in (
        ("fill", "Fill", "F"), ("line", "Line", "K"), ("body", "Body: ball", "B"),
        ("sliver", "Sliver of shade", "S"), ("light", "Sliver of light", "Shift+S"),
        ("edge_light", "Edge light, a hair wide", ""), ("relief", "Relief", ""), ("shadow", "Cast shadow", "D"),
        ("contact", "Contact shadow", ""), ("inner_shadow", "Inner shadow", ""), ("glow", "Outer glow", "W"),
        ("inner_glow", "Inner glow", ""), ("ground_glow", "Ground glow", ""), ("blur", "Blur", "U"),
        ("feather", "Feathered edge", ""), ("grain", "Grain", ""), ("adjust", "Colour shift", ""), ("rim", "Rim", ""),
        ("seams", "Closed seams", ""),
        ("rounding", "Rounding", ""), ("offset", "Offset", ""), ("bend", "Bend", ""), ("thickness", "Thickness", ""),
    ):  # fmt: skip
        action = partial(w.recipe.add, offered[title])
        r.add(Command(f"add.{name}", f"Add {title.lower()}", "Object", action, do.any, keys, name == "fill"))
    for title, pair in PAIRS.items():
        action = partial(w.recipe.add_pair, pair)
        r.add(Command(f"add.{title.split(':')[0].lower()}", f"Add {title.lower()}", "Object", action, do.any))


def _view(w: Window, more: MoreOperations, r: Registry) -> None:
    s, c = w.session, w.canvas
    for i, name in enumerate(STAGES):
        here = partial(lambda n: s.stage == n, i)
        go = partial(s.set_stage, i)
        r.add(Command(f"view.stage{i + 1}", f"Stage {i + 1}: {name}", "View", go, keys=f"F{i + 2}", checked=here))
    r.add(
        Command("view.flat", "Flat or lit", "View", lambda: s.set_flat(not s.flat), keys=".", section=True),
        Command(
            "view.values",
            "Values only",
            "View",
            lambda: s.set_look(values=not s.values),
            keys=",",
            checked=lambda: s.values,
        ),
        Command("view.in", "Zoom in", "View", lambda: c.zoom(1.25), keys="Ctrl++", section=True, more_keys=("Ctrl+=",)),
        Command("view.out", "Zoom out", "View", lambda: c.zoom(0.8), keys="Ctrl+-"),
        Command("view.fit", "Fit the sheet", "View", c.fit, keys="Ctrl+0"),
        Command("view.fit_selection", "Fit the selection", "View", c.fit_selection, keys="Ctrl+9"),
        Command("view.actual", "Actual size", "View", lambda: c.zoom(1 / c.viewport.scale), keys="Ctrl+1"),
        Command("view.full", "Full screen", "View", w.toggle_full, keys="F11"),
    )
    r.add(
        Command(
            "view.snap", "Snapping", "View", lambda: s.set_look(snapping=not s.snapping), keys="N", section=True,
            checked=lambda: s.snapping,
        ),
        Command("view.rulers", "Rulers", "View", lambda: s.set_look(rulers=not s.rulers), keys="Ctrl+Shift+R", checked=lambda: s.rulers),
        Command("view.clear_guides", "Remove all guides", "View", more.clear_guides),
        Command("view.guide_colour", "Guides and handles in another colour", "View", more.recolour_guides, keys="Ctrl+Alt+G"),
    )  # fmt: skip
    for kind in KINDS:
        is_on = partial(lambda k: k in s.snap_kinds, kind)
        go = partial(more.toggle_kind, kind)
        r.add(Command(f"snap.{kind}", f"Snap to {kind}", "View", go, section=kind == KINDS[0], checked=is_on))
    for title, keys in TOOL_KEYS:
        name = title.lower()
        held = partial(lambda n: s.tool == n, name)
        take = partial(w.take_tool, name)
        r.add(Command(f"tool.{name}", f"Tool: {title}", "View", take, keys=keys, section=name == "move", checked=held))
