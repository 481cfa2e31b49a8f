"""All commands of the window, gathered in the registry."""

from __future__ import annotations

from typing import TYPE_CHECKING

from volumen.app.commands import Command, Registry
from volumen.app.fields import defaults
from volumen.app.session import STAGES
from volumen.edit import freeze, objects
from volumen.geometry.affine import translation
from volumen.model.nodes import PathForm, Shape

if TYPE_CHECKING:
    from volumen.app.window import Window

MENUS = ("File", "Edit", "Object", "View", "Help")


def register(window: Window, registry: Registry) -> None:
    _file(window, registry)
    _edit(window, registry)
    _object(window, registry)
    _view(window, registry)
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
        Command("file.export", "Export", "File", w.export, keys="Ctrl+E", section=True),
        Command("file.quit", "Quit", "File", w.close, keys="Ctrl+Q", section=True),
    )


def _edit(w: Window, r: Registry) -> None:
    s = w.session

    def chosen() -> bool:
        return bool(s.selection)

    def undo() -> None:
        if not w.canvas.tool.undo():
            s.undo()

    def nudge(dx: float, dy: float) -> None:
        s.apply("nudge", objects.transform(s.document, s.selection, translation(dx, dy)))

    def duplicate() -> None:
        document, made = objects.duplicate(s.document, s.selection)
        s.apply("duplicate", objects.transform(document, made, translation(12, 12)))
        s.select(made)

    def delete() -> None:
        s.apply("delete", objects.delete(s.document, s.selection))

    def cut() -> None:
        w.copy()
        delete()

    def select_all() -> None:
        s.select([n.id for n in s.document.root.children if n.visible and not n.locked])

    r.add(
        Command("edit.undo", "Undo", "Edit", undo, keys="Ctrl+Z"),
        Command(
            "edit.redo",
            "Redo",
            "Edit",
            s.redo,
            lambda: s.history.redo_label is not None,
            "Ctrl+Shift+Z",
            more_keys=("Ctrl+Y",),
        ),
        Command("edit.cut", "Cut", "Edit", cut, chosen, "Ctrl+X", section=True),
        Command("edit.copy", "Copy", "Edit", w.copy, chosen, "Ctrl+C"),
        Command("edit.paste", "Paste", "Edit", w.paste, keys="Ctrl+V"),
        Command("edit.duplicate", "Duplicate", "Edit", duplicate, chosen, "Ctrl+D"),
        Command("edit.delete", "Delete", "Edit", delete, chosen, "Del", more_keys=("Backspace",)),
        Command("edit.all", "Select all", "Edit", select_all, keys="Ctrl+A", section=True),
        Command("edit.none", "Select nothing", "Edit", lambda: s.select(()), keys="Ctrl+Shift+A"),
        Command("edit.copy_recipe", "Copy the recipe", "Edit", w.copy_recipe, chosen, "Ctrl+Alt+C", section=True),
        Command(
            "edit.paste_recipe",
            "Apply the copied recipe",
            "Edit",
            w.paste_recipe,
            lambda: chosen() and bool(w.recipe_clip),
            "Ctrl+Alt+V",
        ),
    )
    for title, key, dx, dy in (
        ("left", "Left", -1, 0),
        ("right", "Right", 1, 0),
        ("up", "Up", 0, -1),
        ("down", "Down", 0, 1),
    ):
        for far, prefix in ((1, ""), (10, "Shift+")):
            name = f"Nudge {title}" + (" by 10" if far > 1 else "")
            r.add(
                Command(
                    f"edit.nudge_{title}_{far}",
                    name,
                    "Edit",
                    lambda x=dx * far, y=dy * far: nudge(x, y),
                    chosen,
                    prefix + key,
                    section=title == "left" and far == 1,
                )
            )


def _object(w: Window, r: Registry) -> None:
    s = w.session

    def chosen() -> bool:
        return bool(s.selection)

    def several() -> bool:
        return len(s.selection) > 1

    def group() -> None:
        document, made = objects.group(s.document, s.selection)
        s.apply("group", document)
        if made is not None:
            s.select((made,))

    def ungroup() -> None:
        document, free = objects.ungroup(s.document, s.selection)
        s.apply("ungroup or release", document)
        if free:
            s.select(free)

    def hold() -> None:
        document, holder = objects.hold_inside(s.document, s.selection)
        if holder is None:
            s.say("select the shape that shall hold, and in front of it what it shall hold")
            return
        s.apply("hold inside", document)
        s.select((holder,))

    def to_path() -> None:
        document = s.document
        for node_id in s.selection:
            document = freeze.to_path(document, node_id)
        s.apply("form to path", document)

    def freeze_all() -> None:
        document = s.document
        for node_id in s.selection:
            document = freeze.freeze(document, node_id)
        s.apply("freeze", document)

    def can_freeze() -> bool:
        return any(isinstance(n, Shape) and n.recipe for n in s.nodes)

    def is_primitive() -> bool:
        return any(isinstance(n, Shape) and not isinstance(n.form, PathForm) for n in s.nodes)

    def set_all(field: str) -> None:
        value = not getattr(s.nodes[0], field)
        s.apply(f"change {field}", objects.set_fields(s.document, s.selection, **{field: value}))

    r.add(
        Command("object.group", "Group", "Object", group, chosen, "Ctrl+G"),
        Command(
            "object.ungroup",
            "Ungroup, or release what is held",
            "Object",
            ungroup,
            lambda: any(n.children for n in s.nodes),
            "Ctrl+Shift+G",
        ),
        Command("object.hold", "Hold inside the back-most shape", "Object", hold, several, "Ctrl+H"),
        Command(
            "object.front",
            "To the front",
            "Object",
            lambda: s.apply("restack", objects.restack(s.document, s.selection, 10**6)),
            chosen,
            "Ctrl+Shift+Up",
            section=True,
        ),
        Command(
            "object.forward",
            "One up",
            "Object",
            lambda: s.apply("restack", objects.restack(s.document, s.selection, 1)),
            chosen,
            "Ctrl+Up",
        ),
        Command(
            "object.backward",
            "One down",
            "Object",
            lambda: s.apply("restack", objects.restack(s.document, s.selection, -1)),
            chosen,
            "Ctrl+Down",
        ),
        Command(
            "object.back",
            "To the back",
            "Object",
            lambda: s.apply("restack", objects.restack(s.document, s.selection, -(10**6))),
            chosen,
            "Ctrl+Shift+Down",
        ),
        Command("object.rename", "Rename", "Object", w.pile.rename_selected, chosen, "Ctrl+R", section=True),
        Command("object.hide", "Show or hide", "Object", lambda: set_all("visible"), chosen, "Ctrl+3"),
        Command("object.lock", "Lock or unlock", "Object", lambda: set_all("locked"), chosen, "Ctrl+2"),
        Command("object.to_path", "Form to path", "Object", to_path, is_primitive, section=True),
        Command("object.freeze", "Freeze to plain shapes", "Object", freeze_all, can_freeze, "Ctrl+Shift+F"),
    )
    kinds = defaults()
    for name, title, key in (
        ("fill", "Fill", "F"),
        ("line", "Line", "K"),
        ("body", "Body: ball", "B"),
        ("sliver", "Sliver of shade", "S"),
        ("light", "Sliver of light", "Shift+S"),
        ("shadow", "Cast shadow", "D"),
        ("glow", "Outer glow", "W"),
        ("blur", "Blur", "U"),
    ):
        r.add(
            Command(
                f"add.{name}",
                f"Add {title.lower()}",
                "Object",
                lambda t=title: w.recipe.add(kinds[t]),
                chosen,
                key,
                section=name == "fill",
            )
        )


def _view(w: Window, r: Registry) -> None:
    s, c = w.session, w.canvas
    for i, name in enumerate(STAGES):
        r.add(
            Command(
                f"view.stage{i + 1}",
                f"Stage {i + 1}: {name}",
                "View",
                lambda n=i: s.set_stage(n),
                keys=f"F{i + 2}",
                checked=lambda n=i: s.stage == n,
            )
        )
    r.add(
        Command("view.flat", "Flat or lit", "View", lambda: s.set_flat(not s.flat), keys=".", section=True),
        Command("view.in", "Zoom in", "View", lambda: c.zoom(1.25), keys="Ctrl++", more_keys=("Ctrl+=",), section=True),
        Command("view.out", "Zoom out", "View", lambda: c.zoom(0.8), keys="Ctrl+-"),
        Command("view.fit", "Fit the sheet", "View", c.fit, keys="Ctrl+0"),
        Command("view.fit_selection", "Fit the selection", "View", c.fit_selection, keys="Ctrl+9"),
        Command("view.actual", "Actual size", "View", lambda: c.zoom(1 / c.viewport.scale), keys="Ctrl+1"),
        Command("view.full", "Full screen", "View", w.toggle_full, keys="F11"),
    )
    for name, title, key in (
        ("move", "Move", "M"),
        ("ellipse", "Ellipse", "E"),
        ("rectangle", "Rectangle", "R"),
        ("pen", "Pen", "P"),
        ("points", "Points", "O"),
        ("spindle", "Spindle", "G"),
        ("lamp", "Lamp", ""),
    ):
        r.add(
            Command(
                f"tool.{name}",
                f"Tool: {title}",
                "View",
                lambda n=name: w.take_tool(n),
                keys=key,
                section=name == "move",
                checked=lambda n=name: s.tool == n,
            )
        )
