"""Depth by hand: the back of a block is dragged from the middle of its front, or the point that it goes towards."""

from __future__ import annotations

import math
from typing import NamedTuple

import msgspec
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, diamond, dot, halo_line
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, GripTool, Option, near, rounded_to
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.compose.light import light_at
from volumen.edit.objects import selection_box
from volumen.edit.planes import Plane, laid_on_plane
from volumen.edit.recipes import add, with_ingredient
from volumen.geometry.affine import IDENTITY, Affine, Point, apply, invert, mean_scale
from volumen.geometry.path import Box
from volumen.model.ingredients import Block
from volumen.model.nodes import Group, Shape
from volumen.model.tree import world_of
from volumen.outline.blocks import letter_at
from volumen.outline.hit import hit_within
from volumen.shading.lamp import bearing_of, bearing_vector

replace = msgspec.structs.replace


class _Held(NamedTuple):
    """The block in hand: its object, where in the recipe it is, and its place on the sheet."""

    node: Shape | Group
    rank: int
    block: Block
    world: Affine
    box: Box

    @property
    def middle(self) -> Point:
        """The middle of the front, on the sheet."""
        return (self.box[0] + self.box[2]) / 2, (self.box[1] + self.box[3]) / 2


class BlockTool(GripTool):
    """Gives the selection depth and drags it."""

    name = "block"
    icon = "block"
    keys = "Shift+K"
    toolbox = (Shown(Stage.LIGHT, 46),)
    hint = "Drag to give depth, <b>Shift</b> at steps of 15°. <b>Alt</b> drags a point to go towards, <b>Ctrl</b> turns one letter of a word."
    options = (
        Act("follow the lamp", "follow", "Let the depth go away from the lamp"),
        Act("to a point", "towards", "Let the depth go towards a point, or straight back again"),
        Act("letters alike", "alike", "Let all letters of a word go back the same way again"),
        Option("left", "rises left", 30.0, 1, 60, "°", 0.1, hard_high=89.9),
        Option("right", "rises right", 30.0, 1, 60, "°", 0.1, hard_high=89.9),
        Act("left plane", "lay_left", "Lay the selection on the left plane of a cube whose edges rise at these angles"),
        Act("right plane", "lay_right", "Lay the selection on the right plane of that cube"),
        Act("upper plane", "lay_upper", "Lay the selection on the upper plane of that cube"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.start: Point = (0.0, 0.0)  # from where depth is dragged, on the sheet
        self.letter: int | None = None  # the character whose letter alone is turned

    def held(self) -> _Held | None:
        node = self.session.first
        if len(self.session.selection) != 1 or not isinstance(node, Shape | Group):
            return None
        rows = [(k, i) for k, i in enumerate(node.recipe) if isinstance(i, Block) and i.on]
        world = world_of(self.session.document, node.id)
        box = selection_box(self.session.document, (node.id,))
        return _Held(node, *rows[-1], world, box) if rows and box is not None else None

    def _grip(self, h: _Held) -> Point:
        """Where the grip is, on the sheet."""
        if h.block.point is not None:
            return apply(h.world, h.block.point)
        away = light_at(self.session.document, h.node.id).lamp.away
        x, y = away if h.block.angle is None else bearing_vector(h.block.angle)
        far = h.block.depth * mean_scale(h.world)
        return h.middle[0] + x * far, h.middle[1] + y * far

    def grip_at(self, p: Pointer) -> str | None:
        h = self.held()
        return "depth" if h is not None and near(self.sheet.viewport.to_canvas(self._grip(h)), p.at, 9) else None

    def press(self, p: Pointer) -> None:
        under = hit_within(self.session.document, p.sheet, self.slack / self.sheet.viewport.scale)
        if self.grip_at(p) is None and under and not set(under) & set(self.session.selection):
            self.session.select(under[-1:])
        h = self.held()
        self.start = h.middle if h is not None and self.grip_at(p) is not None else p.sheet
        self.before = self.session.document
        self.grabbed = "depth" if self.session.selection else None
        self.letter = letter_at(h.node, h.world, p.sheet) if h is not None and p.ctrl else None
        if self.letter is not None:
            self.start = p.sheet

    def move(self, p: Pointer) -> None:
        if self.grabbed is None or self.before is None:
            return
        document = self.before
        if self.held() is None:
            document = add(document, self.session.selection, Block())
            self.session.preview(document)
        h = self.held()
        if h is not None:
            made = _dragged(h, p, self.start) if self.letter is None else _turned(h, p, self.start, self.letter)
            self.session.preview(with_ingredient(self.session.document, h.node.id, h.rank, made))
            self.readout = f"{made.depth * mean_scale(h.world):.0f}" if made.point is None else ""

    def release(self, p: Pointer) -> None:
        self.let_go("change depth")

    def hover(self, p: Pointer) -> None:
        self.sheet.update()

    # -- buttons

    def follow(self) -> None:
        self._change(angle=None, point=None)

    def towards(self) -> None:
        h = self.held()
        if h is not None and h.block.point is not None:
            self._change(point=None)
        elif h is not None:
            x, y = self._grip(h)
            self._change(point=apply(invert(h.world) or IDENTITY, (x, y)))
        else:
            self._change()

    def alike(self) -> None:
        self._change(own=())

    def lay_left(self) -> None:
        self._lay("left")

    def lay_right(self) -> None:
        self._lay("right")

    def lay_upper(self) -> None:
        self._lay("upper")

    def _lay(self, plane: Plane) -> None:
        s = self.session
        try:
            laid = laid_on_plane(s.document, s.selection, plane, self.values["left"], self.values["right"])
        except ValueError as problem:
            s.say(str(problem))
            return
        if s.selection:
            s.apply(f"lay on the {plane} plane", laid)
        else:
            s.say("select what shall lie on the plane")

    def _change(self, **fields: object) -> None:
        h = self.held()
        if h is None:
            self.session.say("select one object with a block: drag from it to give it one")
            return
        made = replace(h.block, **fields)
        self.session.apply("change depth", with_ingredient(self.session.document, h.node.id, h.rank, made))

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        h = self.held()
        if h is None:
            return
        at, middle = (self.sheet.viewport.to_canvas(p) for p in (self._grip(h), h.middle))
        halo_line(painter, middle, at, dashed=True)
        mark = diamond if h.block.point is not None else dot
        mark(painter, at, AMBER if self.grabbed else HALO)
        self.tell(painter, self.readout)


def _dragged(h: _Held, p: Pointer, start: Point) -> Block:
    """The block as deep as the pointer is from a place on the sheet, or the point that it goes towards under it."""
    if p.alt or h.block.point is not None:
        back = invert(h.world)
        return replace(h.block, point=apply(back, p.sheet)) if back is not None else h.block
    depth = math.dist(p.sheet, start) / max(mean_scale(h.world), 1e-9)
    return replace(h.block, angle=_bearing(p, start), depth=depth)


def _turned(h: _Held, p: Pointer, start: Point, letter: int) -> Block:
    """The block with one letter going back to where the pointer is, as seen from a place on the sheet."""
    if math.dist(p.sheet, start) < 1e-9:
        return h.block
    own = dict(h.block.own) | {letter: _bearing(p, start)}
    return replace(h.block, own=tuple(sorted(own.items())), point=None)


def _bearing(p: Pointer, start: Point) -> float:
    """Where the pointer is as seen from a place on the sheet, with Shift in steps of 15 degrees."""
    bearing = bearing_of(p.sheet[0] - start[0], p.sheet[1] - start[1])
    return rounded_to(bearing, 15) % 360 if p.shift else bearing
