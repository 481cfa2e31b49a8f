"""The commands of the menus File, Edit, Object, Combine and Colour, as tables for the registry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import NamedTuple, get_args

from volumen.app.commands.clipboard import Clipboard
from volumen.app.commands.colour_acts import ColourActs
from volumen.app.commands.combine_acts import CombineActs
from volumen.app.commands.desk import Desk
from volumen.app.commands.documents import Documents
from volumen.app.commands.find_acts import FindActs
from volumen.app.commands.kept_work import show_kept_work
from volumen.app.commands.link_acts import LinkActs
from volumen.app.commands.needs import Needs
from volumen.app.commands.object_acts import ObjectActs
from volumen.app.commands.placing import Placing
from volumen.app.commands.printing import show_print_dialog
from volumen.app.commands.sheet_settings import show_sheet_settings
from volumen.app.commands.text_acts import TextActs
from volumen.app.commands.view_acts import ViewActs
from volumen.app.commands.view_tables import register_ingredients, register_light, register_view
from volumen.app.state.news import Stage
from volumen.app.state.registry import NOTHING, Command, Need, Registry, Shown
from volumen.edit.planes import Plane
from volumen.edit.search import Likeness
from volumen.model.nodes import COMBININGS

MENUS = ("File", "Edit", "Object", "Ingredient", "Combine", "Colour", "Light", "View", "Help")
FAR = 10**6
_COMBINING_ROWS = {
    "union": ("squares-unite", 80), "subtract": ("squares-subtract", 90), "intersect": ("squares-intersect", 100),
    "exclude": ("squares-exclude", 110), "divide": ("split", 120), "cut hidden": ("layers", 130),
}  # fmt: skip


class Exchange(NamedTuple):
    """What brings artwork in and takes it out."""

    files: Documents
    placing: Placing
    clipboard: Clipboard


def register(desk: Desk, exchange: Exchange, registry: Registry) -> None:
    """All commands of a desk."""
    needs, do = Needs(desk, exchange.clipboard), ObjectActs(desk, exchange.clipboard)
    _file(desk, exchange, needs, registry)
    _edit(exchange.clipboard, do, FindActs(desk), needs, registry)
    _object(desk, do, needs, registry)
    register_ingredients(desk, needs, registry)
    _combine(CombineActs(desk), do, needs, registry)
    _colour(ColourActs(desk), needs, registry)
    register_light(desk, needs, registry)
    register_view(desk, needs, registry)
    registry.add(
        Command("help.keys", "Keys and commands", "Help", desk.show_help, keys="F1", words="manual shortcuts"),
        Command("help.list", "Find a command", "Help", desk.show_command_list, keys="Ctrl+Space", words="search"),
        Command("help.about", "About Volumen", "Help", desk.show_about, section=True),
    )


class ToolboxRow(NamedTuple):
    """How a command that acts at once stands in the toolbox."""

    short: str
    icon: str
    shown: Shown


class _Table:
    """Adds commands to one menu, their ids begun alike."""

    def __init__(self, registry: Registry, menu: str) -> None:
        self.registry, self.menu = registry, menu

    def __call__(
        self, name: str, title: str, call: Callable[[], object], need: Need = NOTHING, *keys: str,
        section: bool = False, inside: str = "", words: str = "", row: ToolboxRow | None = None,
    ) -> None:  # fmt: skip
        menu = f"{self.menu}/{inside}" if inside else self.menu
        key, more = (keys[0], keys[1:]) if keys else ("", ())
        made = Command(f"{self.menu.lower()}.{name}", title, menu, call, need, key, section, more, words=words)
        if row is not None:
            made = replace(made, short=row.short, icon=row.icon, toolbox=(row.shown,))
        self.registry.add(made)


def _file(w: Desk, exchange: Exchange, n: Needs, r: Registry) -> None:
    f, add = exchange.files, _Table(r, "File")
    add("new", "New sheet", f.new, NOTHING, "Ctrl+N")
    add("open", "Open …", f.open, NOTHING, "Ctrl+O", words="load")
    add("save", "Save", f.save, NOTHING, "Ctrl+S", section=True)
    add("save_as", "Save as …", f.save_as, NOTHING, "Ctrl+Shift+S")
    add(
        "kept",
        "Kept work …",
        partial(show_kept_work, w, f),
        NOTHING,
        words="recover crash backup earlier versions lost",
    )
    add(
        "place",
        "Place a picture or SVG …",
        exchange.placing.place,
        NOTHING,
        "Ctrl+Shift+O",
        words="import reference sketch",
        row=ToolboxRow("Reference", "image", Shown(Stage.DRAW, 160)),
    )
    scanned = "paper photograph skew cast simulated device"
    add("scan", "Scan a picture … (simulated)", exchange.placing.scan, NOTHING, words=scanned)
    add("straighten", "Straighten the scan", exchange.placing.straighten, n.image, words="skew colour cast chart")
    add(
        "sheet",
        "Sheet …",
        partial(show_sheet_settings, w),
        NOTHING,
        words="page size format unit mm bleed ground paper",
    )
    add("export", "Export", w.show_outputs, NOTHING, "Ctrl+E", section=True, words="png pdf output")
    add("print", "Print a proof …", partial(show_print_dialog, w), NOTHING, "Ctrl+P", words="paper printer")
    add("quit", "Quit", w.leave, NOTHING, "Ctrl+Q", section=True, words="exit")


def _edit(clipboard: Clipboard, do: ObjectActs, finding: FindActs, n: Needs, r: Registry) -> None:
    add, paste = _Table(r, "Edit"), clipboard.paste
    add("undo", "Undo", do.undo, n.undo, "Ctrl+Z", words="back")
    add("redo", "Redo", do.session.redo, n.redo, "Ctrl+Shift+Z", "Ctrl+Y")
    add("cut", "Cut", do.cut, n.any, "Ctrl+X", section=True)
    add("copy", "Copy", do.copy, n.any, "Ctrl+C")
    add("paste", "Paste", paste, NOTHING, "Ctrl+V")
    add("paste_above", "Paste in place above", partial(paste, "above"), NOTHING, "Ctrl+Shift+V")
    add("paste_below", "Paste in place below", partial(paste, "below"), NOTHING, "Ctrl+Alt+Shift+V")
    add("duplicate", "Duplicate", do.duplicate, n.any, "Ctrl+D", words="copy")
    add("delete", "Delete", do.delete, n.any, "Del", "Backspace", words="remove")
    add("all", "Select all", do.select_all, NOTHING, "Ctrl+A", section=True)
    add("none", "Select nothing", do.select_nothing, n.any, "Ctrl+Shift+A", words="deselect")
    for by in get_args(Likeness):
        keys = ("Ctrl+Alt+A",) if by == "look" else ()
        add(
            f"same_{by}",
            f"Select the same {by}",
            partial(finding.select_alike, by),
            n.any,
            *keys,
            inside="Find and select",
        )
    find = partial(add, inside="Find and select")
    find("duplicates", "Select duplicates lying on one another", finding.select_duplicates, section=True)
    find("strays", "Select stray points and empty shapes", finding.select_strays, words="specks leftovers clean")
    add("copy_recipe", "Copy the recipe", clipboard.copy_recipe, n.any, "Ctrl+Alt+C", section=True, words="style look")
    add(
        "paste_recipe",
        "Apply the copied recipe",
        clipboard.paste_recipe,
        n.recipe_clip,
        "Ctrl+Alt+V",
        words="style look",
    )
    for way, dx, dy in (("Left", -1, 0), ("Right", 1, 0), ("Up", 0, -1), ("Down", 0, 1)):
        nudge = partial(add, inside="Nudge")
        nudge(f"nudge_{way}", f"Nudge {way.lower()}", partial(do.nudge, dx, dy), n.any, way)
        far = partial(do.nudge, 10 * dx, 10 * dy)
        nudge(f"nudge_{way}_far", f"Nudge {way.lower()} by 10", far, n.any, f"Shift+{way}")


def _object(w: Desk, do: ObjectActs, n: Needs, r: Registry) -> None:
    add = _Table(r, "Object")
    add("group", "Group", do.group, n.any, "Ctrl+G")
    release = ToolboxRow("Release", "square-stack", Shown(Stage.CARVE, 150, folded=True))
    add("ungroup", "Ungroup, or release what is held", do.ungroup, n.children, "Ctrl+Shift+G", row=release)
    held = ToolboxRow("Hold inside", "circle-dot", Shown(Stage.CARVE, 140, folded=True))
    add("hold", "Hold inside the back-most shape", do.hold, n.several, "Ctrl+H", words="clip mask", row=held)
    order = partial(add, inside="Order")
    order("front", "To the front", partial(do.restack, FAR), n.any, "Ctrl+Shift+Up")
    order("forward", "One up", partial(do.restack, 1), n.any, "Ctrl+Up")
    order("backward", "One down", partial(do.restack, -1), n.any, "Ctrl+Down")
    order("back", "To the back", partial(do.restack, -FAR), n.any, "Ctrl+Shift+Down")
    _copies_and_places(w, n, add)
    _kept_as(w, do, n, add)


def _copies_and_places(w: Desk, n: Needs, add: _Table) -> None:
    arranger, on_path, links = w.arranger, TextActs(w), LinkActs(w)
    linked = partial(add, inside="Linked copies")
    linked("copy_linked", "Linked copy", links.copy_linked, n.any, "Ctrl+Alt+D", words="instance clone")
    linked("keep_motif", "Keep as a motif in the palette", links.keep_motif, n.any, words="reuse library symbol name")
    words = "drawing outline edges without faces"
    linked("copy_as_lines", "Linked copy beside it, its lines only", links.copy_as_lines, n.any, words=words)
    linked("link", "Link: all become like the first", links.link, n.linkable)
    linked("unlink", "Unlink", links.unlink, n.linked)
    linked("unlink_all", "Unlink the whole set", links.unlink_all, n.linked)
    linked("select_linked", "Select all that are linked", links.select_linked, n.linked)
    mirror = partial(add, inside="Mirror and repeat")
    mirror("again", "Transform again", arranger.again, n.any, "Ctrl+Shift+D")
    mirror("mirror_across", "Mirror left and right", partial(arranger.mirror, 90), n.any, "Ctrl+M", words="flip")
    mirror("mirror_down", "Mirror top and bottom", partial(arranger.mirror, 0), n.any, "Ctrl+Shift+M", words="flip")
    mirror("mirror_copy", "Mirrored copy, left and right", partial(arranger.mirror, 90, True), n.any, "Ctrl+Alt+M")
    for plane in get_args(Plane):
        title, words = f"Lay on the {plane} plane", "isometric cube block letters"
        add(f"plane_{plane}", title, partial(arranger.lay_on, plane), n.any, inside="Planes of a cube", words=words)
    for edge in ("left", "centre", "right", "top", "middle", "bottom"):
        add(f"align_{edge}", f"Align {edge}", partial(arranger.align, edge), n.any, inside="Align")
    text = partial(add, inside="Text on a path")
    text("text_on_path", "Set text on the path", on_path.set_on_path, n.text_and_path)
    text("text_off_path", "Take text off its path", on_path.take_off_path, n.text_on_path)


def _kept_as(w: Desk, do: ObjectActs, n: Needs, add: _Table) -> None:
    combining, looking = CombineActs(w), ViewActs(w)
    branch = "Work inside this branch alone, or leave it"
    add("isolate", branch, looking.isolate, n.isolated_or_any, "Ctrl+I", section=True)
    hole = ToolboxRow("Knockout", "circle-slash-2", Shown(Stage.CARVE, 160, folded=True))
    title = "Knockout: let the stock show through"
    add("knockout", title, combining.knockout, n.any, words="hole cut", row=hole)
    made = partial(add, inside="What it is made on")
    made("stock", "Stock: no knockout cuts it, or no longer", combining.stock, n.any, words="mock-up cloth paper")
    made("die_line", "Die line round the artwork", combining.die_line, NOTHING, words="sticker cutter contour kiss cut")
    lines = "Its lines only, or all of it again"
    add("lines_only", lines, partial(do.flip, "lines_only"), n.any, words="drawing outline edges hide faces")
    add("dim", "Dim the reference image, or show it in full", looking.dim, n.image, words="sketch fade")
    add("rename", "Rename", w.rename_selected, n.any, "Ctrl+R", section=True)
    add("hide", "Show or hide", partial(do.flip, "visible"), n.any, "Ctrl+Shift+H")
    add("lock", "Lock or unlock", partial(do.flip, "locked"), n.any, "Ctrl+Shift+K")
    add("keep_vector", "Keep vector on export, or not", partial(do.flip, "keep_vector"), n.any)
    path = ToolboxRow("Form to path", "waypoints", Shown(Stage.CARVE, 170, folded=True))
    words = "outlines convert curves letters"
    add("to_path", "Form to path", do.to_path, n.form, section=True, words=words, row=path)
    add("line_to_outline", "Line to outline", do.line_to_outline, n.lines, "Ctrl+Alt+O", words="stroke expand band")
    filled = partial(do.line_to_outline, True)
    add("line_to_outline_filled", "Line to outline, its holes filled", filled, n.lines, words="stroke expand band")
    frozen = ToolboxRow("Freeze", "snowflake", Shown(Stage.CARVE, 180))
    words = "expand flatten bake"
    add("freeze", "Freeze to plain shapes", do.freeze, n.live, "Ctrl+Shift+F", words=words, row=frozen)


def _combine(combining: CombineActs, do: ObjectActs, n: Needs, r: Registry) -> None:
    add = _Table(r, "Combine")
    for operation in COMBININGS:
        title = operation.capitalize() + (" from the back-most" if operation == "subtract" else "")
        name, call = operation.replace(" ", "_"), partial(combining.combine, operation)
        icon, at = _COMBINING_ROWS[operation]
        row = ToolboxRow(operation.capitalize(), icon, Shown(Stage.CARVE, at))
        words = "boolean pathfinder merge"
        need = n.to_unite if operation == "union" else n.several
        add(name, f"{title}, live", call, need, section=operation == "divide", words=words, row=row)
        add(f"{name}_once", f"{title}, once and for all", partial(call, False), need)
    add("release", "Release the members", do.release, n.combined, section=True)
    words = "burst boundary clip hold"
    add(
        "rays_inside",
        "Rays stay inside the object",
        partial(combining.bound_rays, True),
        n.rays_and_bound,
        section=True,
        words=words,
    )
    add(
        "rays_outside",
        "Rays keep out of the object",
        partial(combining.bound_rays, False),
        n.rays_and_bound,
        words=words,
    )
    add("release_rays", "Release the bounds of the rays", combining.release_rays, n.bounded_rays)
    add(
        "join_ends",
        "Join the ends",
        combining.join_ends,
        n.two_ends,
        "Ctrl+Alt+J",
        section=True,
        words="weld close connect",
    )
    add("mirror_weld", "Mirrored half, welded on its axis", combining.mirror_weld, n.two_ends, words="symmetry whole")


def _colour(c: ColourActs, n: Needs, r: Registry) -> None:
    add = _Table(r, "Colour")
    add(
        "blend",
        "Blend in steps",
        c.blend,
        n.several,
        "Ctrl+B",
        row=ToolboxRow("Stepped blend", "layers-2", Shown(Stage.COLOUR, 80)),
    )
    add("spine", "Lay the steps along the path", c.take_spine, n.blend_and_path)
    add(
        "hatch",
        "Hatch the shape",
        c.hatch,
        n.one_shape,
        row=ToolboxRow("Hatch", "tally-3", Shown(Stage.COLOUR, 100, folded=True)),
    )
    add(
        "shade_form",
        "Shaded form from the shape",
        c.shade_form,
        n.one_shape,
        row=ToolboxRow("Shaded form", "eclipse", Shown(Stage.COLOUR, 110, folded=True)),
    )
    add("as_one", "One gradient across the selection", c.as_one, n.several, section=True)
    add("keep_gradient", "Keep this gradient in the palette", c.keep_gradient, n.one_shape)
    add("keep_colour", "Keep the colour in use", c.keep_colour, n.any, section=True, words="swatch")
    add("keep_look", "Keep this look in the palette", c.keep_look, n.any)
    add("from_selection", "Swatches from the selection", c.from_selection, n.any)
    add("from_picture", "Swatches from the reference picture", c.from_picture, n.picture)
    add("read_palette", "Read a palette …", c.read_palette, section=True)
    add("write_palette", "Write the palette …", c.write_palette, n.swatches)
