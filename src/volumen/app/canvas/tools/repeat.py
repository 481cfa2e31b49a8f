"""Repeats by hand: centres, axes and second copies are dragged, scattered places put and taken away."""

from __future__ import annotations

import math

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, INK, arrow, diamond, dot, halo_line, halo_stroke, qt_path
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, GripTool, near
from volumen.app.canvas.tools.repeat_target import Target, arrows, dragged, grips_of, target_of
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import repeats
from volumen.edit.recipes import with_ingredient
from volumen.geometry.affine import apply, invert
from volumen.geometry.primitives import ellipse, rectangle
from volumen.geometry.spine import Spine
from volumen.model.ingredients import Halves
from volumen.model.repeats import Course, Grid, Mirror, Repeat, Ring, Scatter
from volumen.model.tree import find

replace = msgspec.structs.replace


class RepeatTool(GripTool):
    """Shapes the last repeat of the selected group."""

    name = "repeat"
    icon = "component"
    keys = "Shift+P"
    toolbox = (Shown(Stage.DRAW, 150),)
    hint = "Drag grips, click an arrow to turn round. <b>Ctrl</b>+click lets a copy go. Scatter: click adds, <b>Alt</b>+click takes one."
    options = (
        Act("ring", "start_ring", "Show the selection again and again round a centre"),
        Act("row", "start_row", "Show the selection in a row"),
        Act("grid", "start_grid", "Show the selection in rows"),
        Act("mirror", "start_mirror", "Show the selection and its mirrored copy"),
        Act("scatter", "start_scatter", "Strew the selection inside the largest of the selected shapes"),
        Act("path", "start_course", "Show the selection along the longest open line among it"),
        Act("turn round", "flip_course", "Let what runs along a path run from its other end"),
        Act("ends", "set_caps", "Let the selected parts of the motif stand at the ends of its path instead"),
        Act("let all go", "release_all", "Make every copy an object of its own"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.strewing = False

    # -- by hand

    def grip_at(self, p: Pointer) -> str | None:
        t = target_of(self.sheet)
        grips = grips_of(t) if t is not None else {}
        return next((name for name, at in grips.items() if near(at, p.at, 9)), None)

    def press(self, p: Pointer) -> None:
        t = target_of(self.sheet)
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
        if self.grabbed == "flip":
            self.flip_course()
            self.grabbed, self.before = None, None

    def move(self, p: Pointer) -> None:
        if self.strewing:
            self._strew(p)
            return
        t = target_of(self.sheet)
        back = invert(t.place) if t is not None else None
        if t is None or back is None or self.grabbed is None or self.before is None:
            return
        to_sheet = self.sheet.snap(p, without=(t.node.id,)) if self.grabbed == "centre" else p.sheet
        at = apply(back, self.sheet.viewport.to_canvas(to_sheet))
        made = dragged(t, self.grabbed, at, p.shift)
        self.session.preview(with_ingredient(self.before, t.node.id, t.rank, made))

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
        t = target_of(self.sheet)
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
        self._say_let_go(f"copy {found.copy.number} is an object of its own now", t)
        if not find(document, t.node.id):
            self.session.select(free)

    def _say_let_go(self, told: str, t: Target) -> None:
        alone = repeats.each_its_own(t.node)
        self.session.say(f"{told}, with its own of what the copies had as one: {alone}" if alone else told)

    # -- buttons

    def _start(self, i: Repeat) -> None:
        document, holder = repeats.repeat(self.session.document, self.session.selection, i)
        if holder is None:
            self.session.say("select what is to be repeated")
            return
        self.session.apply("repeat", document)
        self.session.select([holder])
        made = self.session.first
        if made is not None:
            newest = max(k for k, own in enumerate(made.recipe) if type(own) is type(i))
            self.session.set_active(newest)  # its card opens

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

    def start_course(self) -> None:
        self._start(Course())

    def flip_course(self) -> None:
        t = target_of(self.sheet)
        if t is None or not isinstance(t.repeat, Course):
            self.session.say("select one group that runs along a path")
            return
        made = replace(t.repeat, flip=not t.repeat.flip)
        self.session.apply("turn round", with_ingredient(self.session.document, t.node.id, t.rank, made))

    def set_caps(self) -> None:
        document, group = repeats.with_caps(self.session.document, self.session.selection)
        if group is None:
            self.session.say("select one or two parts of a motif that runs along a path, and leave at least one")
            return
        self.session.apply("ends of a path", document)
        self.session.select([group])

    def release_all(self) -> None:
        t = target_of(self.sheet)
        if t is None:
            self.session.say("select one group with a repeat")
            return
        document, free = repeats.let_go(self.session.document, t.node.id)
        self.session.apply("let all copies go", document)
        self.session.select(free)
        self._say_let_go(f"{len(free)} objects of their own", t)

    # -- what is seen

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        t = target_of(self.sheet)
        if t is None:
            return
        grips = grips_of(t)
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
        if isinstance(t.repeat, Course) and (spine := t.spine) is not None:
            _paint_course(painter, t, spine)
        for name, at in grips.items():
            if name == "flip":
                continue
            mark = diamond if name == "centre" else dot
            mark(painter, at, AMBER if name in ("centre", self.grabbed) else HALO)


def _paint_course(painter: QPainter, t: Target, spine: Spine) -> None:
    """The path with arrows the way it runs, and the motif's box where it was drawn."""
    halo_stroke(painter, qt_path(t.guide, t.place), INK, 1.0)
    l, top, r, b = t.box
    halo_stroke(painter, qt_path(rectangle(l, top, r - l, b - top), t.place), AMBER, 1.0)
    for k, (at, (dx, dy)) in enumerate(arrows(t, spine, (0.25, 0.5, 0.75))):
        arrow(painter, at, (dx, dy), 11.0 if k == 1 else 7.0)
