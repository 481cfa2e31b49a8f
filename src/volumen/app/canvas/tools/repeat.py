"""Repeats by hand: centres, axes and second copies are dragged, scattered places put and taken away."""

from __future__ import annotations

import math
from typing import NamedTuple

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, INK, diamond, dot, halo_line, halo_stroke, qt_path
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, GripTool, near
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import repeats
from volumen.geometry.affine import Affine, Point, apply, apply_vector, invert, multiply
from volumen.geometry.path import Box, Path
from volumen.geometry.primitives import ellipse
from volumen.model.ingredients import Halves
from volumen.model.nodes import Group, Image, Shape
from volumen.model.repeats import REPEATS, Grid, Mirror, Repeat, Ring, Scatter
from volumen.model.tree import find, world_of
from volumen.outline.copies import copies_of
from volumen.outline.making import shown_before
from volumen.outline.outlines import outline_before
from volumen.outline.repeats import box_of, guide_of

replace = msgspec.structs.replace
_AXIS = 90.0  # pixels from a mirror's centre to the grip that turns it


class Target(NamedTuple):
    """The repeat in hand: its group (or the shape of a mirrored half), where in the recipe it is, the box of what it repeats, its place on the
    canvas, the outline it strews in."""

    node: Group | Shape
    rank: int
    repeat: Repeat | Halves
    box: Box
    place: Affine
    guide: Path

    @property
    def middle(self) -> Point:
        return (self.box[0] + self.box[2]) / 2, (self.box[1] + self.box[3]) / 2


class RepeatTool(GripTool):
    """Shapes the last repeat of the selected group."""

    name = "repeat"
    icon = "component"
    keys = "K"
    toolbox = (Shown(Stage.DRAW, 150),)
    hint = (
        "Drag centre, axis or second copy. <b>Ctrl</b>+click lets a copy go. "
        "In a scatter click to add one, <b>Alt</b>+click takes one away."
    )
    options = (
        Act("ring", "start_ring", "Show the selection again and again round a centre"),
        Act("row", "start_row", "Show the selection in a row"),
        Act("grid", "start_grid", "Show the selection in rows"),
        Act("mirror", "start_mirror", "Show the selection and its mirrored copy"),
        Act("scatter", "start_scatter", "Strew the selection inside the largest of the selected shapes"),
        Act("let all go", "release_all", "Make every copy an object of its own"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.strewing = False

    def target(self) -> Target | None:
        node = self.session.first
        if node is None or len(self.session.selection) != 1:
            return None
        found = [(k, i) for k, i in enumerate(node.recipe) if isinstance(i, (*REPEATS, Halves)) and i.on]
        if not found or isinstance(node, Image):
            return None
        rank, i = found[-1]
        box = outline_before(node, rank).bounds() if isinstance(node, Shape) else box_of(shown_before(node, rank))
        if box is None or not isinstance(i, (*REPEATS, Halves)):
            return None
        place = multiply(self.sheet.viewport.affine(), world_of(self.session.document, node.id))
        guide = guide_of(node) if isinstance(node, Group) else Path()
        return Target(node, rank, i, box, place, guide)

    def _grips(self, t: Target) -> dict[str, Point]:
        """The grips by name, on the canvas."""
        i = t.repeat
        if isinstance(i, Ring):
            second, centre = self._copy(t, 1), {"centre": apply(t.place, i.centre)}
            return {"second": second, **centre} if second else centre
        if isinstance(i, Mirror | Halves):
            (x, y), turn = apply(t.place, i.centre), math.radians(i.angle)
            dx, dy = apply_vector(t.place, (math.cos(turn), math.sin(turn)))
            far = _AXIS / (math.hypot(dx, dy) or 1.0)
            return {"axis": (x + dx * far, y + dy * far), "centre": (x, y)}
        if isinstance(i, Grid):
            across, down = self._copy(t, i.across - 1 if i.by == "fit" else 1), self._copy(t, i.across)
            if i.by == "fit":
                down = self._copy(t, i.across * (i.down - 1))
            grips = {"across": across} if across and i.across > 1 else {}
            return {**grips, "down": down} if down and i.down > 1 else grips
        return {}

    def _copy(self, t: Target, number: int) -> Point | None:
        """The middle of a copy, on the canvas."""
        if isinstance(t.repeat, Halves):
            return None
        whole = replace(t.repeat, gone=())
        found = next((c for c in copies_of(whole, t.box, t.guide) if c.number == number), None)
        return apply(multiply(t.place, found.place), t.middle) if found is not None else None

    # -- by hand

    def grip_at(self, p: Pointer) -> str | None:
        t = self.target()
        grips = self._grips(t) if t is not None else {}
        return next((name for name, at in grips.items() if near(at, p.at, 9)), None)

    def press(self, p: Pointer) -> None:
        t = self.target()
        self.strewing = False
        if t is not None and self.grip_at(p) is None:
            if p.ctrl:
                self._let_copy_go(t, p)
                return
            if isinstance(t.repeat, Scatter):
                self.before, self.strewing = self.session.document, True
                self._strew(p)
                return
        super().press(p)

    def move(self, p: Pointer) -> None:
        if self.strewing:
            self._strew(p)
            return
        t = self.target()
        back = invert(t.place) if t is not None else None
        if t is None or back is None or self.grabbed is None or self.before is None:
            return
        to_sheet = self.sheet.snap(p, without=(t.node.id,)) if self.grabbed == "centre" else p.sheet
        at = apply(back, self.sheet.viewport.to_canvas(to_sheet))
        made = _dragged(t, self.grabbed, at, p.shift)
        self.session.preview(repeats.with_repeat(self.before, t.node.id, t.rank, made))

    def release(self, p: Pointer) -> None:
        self.let_go("scatter" if self.strewing else "change repeat")
        self.strewing = False
        self.sheet.snapped = None

    def hover(self, p: Pointer) -> None:
        self.sheet.update()

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.strewing:
            self.session.cancel()
            self.strewing = False
            return True
        return super().key(key)

    def _strew(self, p: Pointer) -> None:
        t = self.target()
        if t is None:
            return
        change = repeats.without_place if p.alt else repeats.with_place
        self.session.preview(change(self.session.document, t.node.id, p.sheet))

    def _let_copy_go(self, t: Target, p: Pointer) -> None:
        found = repeats.copy_at(self.session.document, t.node.id, p.sheet)
        if found is None:
            self.session.say("no copy there to let go")
            return
        document, free = repeats.let_go(self.session.document, t.node.id, found.copy.number)
        self.session.apply("let a copy go", document)
        self.session.say(f"copy {found.copy.number} is an object of its own now")
        if not find(document, t.node.id):
            self.session.select(free)

    # -- buttons

    def _start(self, i: Repeat) -> None:
        document, holder = repeats.repeat(self.session.document, self.session.selection, i)
        if holder is None:
            self.session.say("select what is to be repeated")
            return
        self.session.apply("repeat", document)
        self.session.select([holder])

    def start_ring(self) -> None:
        self._start(Ring())

    def start_row(self) -> None:
        self._start(Grid())

    def start_grid(self) -> None:
        self._start(Grid(down=4))

    def start_mirror(self) -> None:
        self._start(Mirror())

    def start_scatter(self) -> None:
        self._start(Scatter())

    def release_all(self) -> None:
        t = self.target()
        if t is None:
            self.session.say("select one group with a repeat")
            return
        document, free = repeats.let_go(self.session.document, t.node.id)
        self.session.apply("let all copies go", document)
        self.session.select(free)

    # -- what is seen

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        t = self.target()
        if t is None:
            return
        grips = self._grips(t)
        if isinstance(t.repeat, Ring):
            r = math.hypot(t.middle[0] - t.repeat.centre[0], t.middle[1] - t.repeat.centre[1])
            circle = ellipse(t.repeat.centre[0], t.repeat.centre[1], r, r)
            halo_stroke(painter, qt_path(circle, t.place), INK, 1.0)
        if isinstance(t.repeat, Mirror | Halves):
            (ax, ay), (cx, cy) = grips["axis"], grips["centre"]
            halo_line(painter, (ax, ay), (2 * cx - ax, 2 * cy - ay), dashed=True)
        if isinstance(t.repeat, Grid):
            for at in grips.values():
                halo_line(painter, apply(t.place, t.middle), at, dashed=True)
        if isinstance(t.repeat, Scatter):
            halo_stroke(painter, qt_path(t.guide, t.place), INK, 1.0)
        for name, at in grips.items():
            mark = diamond if name == "centre" else dot
            mark(painter, at, AMBER if name in ("centre", self.grabbed) else HALO)


def _dragged(t: Target, grip: str, at: Point, stepped: bool) -> Repeat | Halves:
    """The repeat with one of its grips at a place in the group's coordinates; ``stepped`` turns by 15 degrees."""
    i = t.repeat
    if grip == "centre" and isinstance(i, Ring | Mirror | Halves):
        return replace(i, centre=at)
    if isinstance(i, Mirror | Halves):
        angle = _angle(i.centre, at)
        return replace(i, angle=round(angle / 15) * 15.0 if stepped else angle)
    if isinstance(i, Ring):
        return repeats.turned_to(i, (_angle(i.centre, at) - _angle(i.centre, t.middle)) % 360)
    return repeats.spread_to(i, t.box, grip == "down", at, stepped) if isinstance(i, Grid) else i


def _angle(a: Point, b: Point) -> float:
    return math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
