"""Areas: sweep over what outlines cut out, to merge it, take it, or remove it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen

from volumen.app import theme
from volumen.app.canvas.handles import qt_path
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, Option, Tool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import combine, objects
from volumen.edit.wall_looks import wall_look
from volumen.geometry.affine import Point
from volumen.geometry.enclosed_areas import Arrangement, arrange
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path
from volumen.model.ingredients import Fill, Recipe, without_form_changes
from volumen.model.tree import find, walk
from volumen.shading.paint import Solid

MOST = 120


class AreasTool(Tool):
    """Sweeps over the areas that outlines enclose and makes shapes of them."""

    name = "areas"
    icon = "puzzle"
    keys = "A"
    toolbox = (Shown(Stage.CARVE, 20),)
    hint = "Sweep across areas to merge them, click one to take it, with <b>Alt</b> to remove; then clear what is left over."
    cursor = Qt.CursorShape.PointingHandCursor
    options = (
        Option("gap", "close gaps", 0, 0, 20, "", 0, hard_high=1000, is_length=True),
        Act("clear what is left over", "clear", "Remove the shapes that areas were taken from"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self._net: tuple[object, Arrangement, list[int]] | None = None
        self.hovered: int | None = None
        self.swept: list[int] = []
        self.removing = False
        self.last: Point | None = None
        self.sources: set[int] = set()  # what areas were taken from since the last clearing
        self.made: set[int] = set()
        self.scope: tuple[int, ...] = ()

    def net(self) -> tuple[Arrangement, list[int]]:
        """The areas of the selection (or of everything), kept until the document changes."""
        document = self.session.document
        ids = self._scope()
        key = (id(document), ids, self.values["gap"])
        if self._net is None or self._net[0] != key:
            found = combine.area_sources(document, ids)
            found = [(i, p) for i, p in found if i not in self.made or i in self.session.selection]
            if len(found) > MOST:  # working them out would make the hand wait
                self.session.say(f"select up to {MOST} shapes whose areas you want; there are {len(found)} here")
                found = []
            gap = self.values["gap"]
            try:
                net = arrange([p for _, p in found], gap=gap)
            except PathOpError as problem:
                self.session.say(str(problem))
                net, found = arrange([]), []
            self._net = (key, net, [i for i, _ in found])
            self._kept = document  # so that its id cannot be taken by another
            self.hovered, self.swept = None, []
        return self._net[1], self._net[2]

    def _scope(self) -> tuple[int, ...]:
        """What was selected when work with areas began: it stays, while new shapes get selected."""
        chosen = tuple(i for i in self.session.selection if i not in self.made)
        if len(chosen) > 1:
            self.scope = chosen
        return tuple(i for i in self.scope if find(self.session.document, i) is not None)

    def hover(self, p: Pointer) -> None:
        net, _ = self.net()
        self.hovered, self.removing = net.at(p.sheet), p.alt
        self.sheet.update()

    def press(self, p: Pointer) -> None:
        net, _ = self.net()
        at = net.at(p.sheet)
        self.swept = [at] if at is not None else []
        self.last, self.removing = p.sheet, p.alt
        self.sheet.update()

    def move(self, p: Pointer) -> None:
        if self.last is None:
            return
        net, _ = self.net()
        for i in net.along(self.last, p.sheet):
            if i not in self.swept:
                self.swept.append(i)
        self.last = p.sheet
        self.sheet.update()

    def release(self, p: Pointer) -> None:
        swept, self.swept, self.last = self.swept, [], None
        if swept:
            try:
                self._cut(swept) if self.removing else self._merge(swept)
            except PathOpError as error:
                self.session.say(str(error))
        self.sheet.update()

    def _merge(self, swept: list[int]) -> None:
        net, sources = self.net()
        path = net.outline(swept)
        if not path:
            return
        covers = sorted({k for i in swept for k in net.covers(i)})
        touched = [sources[k] for k in covers]
        recipe = self._look(touched, path)
        name = "area" if len(swept) == 1 else "merged areas"
        document, made = combine.merge_areas(self.session.document, path, touched or sources, name, recipe)
        self.sources.update(sources if self.scope or not touched else touched)
        self.sources.update(sources[k] for k, p in enumerate(net.paths) if any(not c.closed for c in p.contours))
        self.made.add(made)
        self.session.apply("merge areas", document)
        self.session.select((made,))

    def _look(self, touched: list[int], path: Path) -> Recipe:
        """The look of the front-most shape that holds the areas, or of its wall; the last colour where none does."""
        for node_id in reversed(touched):
            if (wall := wall_look(self.session.document, node_id, path)) is not None:
                return wall
            node = find(self.session.document, node_id)
            if node is not None and any(isinstance(i, Fill) for i in node.recipe):
                return without_form_changes(node.recipe)
        return (Fill(Solid(self.sheet.last_colour)),)

    def _cut(self, swept: list[int]) -> None:
        net, sources = self.net()
        gone = Path(net.outline(swept).contours, True)
        self.session.apply("remove areas", combine.cut_areas(self.session.document, gone, sources))

    def clear(self) -> None:
        """Remove what areas were taken from, in one step."""
        there = {n.id for n in walk(self.session.document.root)}
        gone = [i for i in self.sources if i in there and i not in self.made]
        if not gone:
            self.session.say("nothing is left over: merge or take areas first")
            return
        self.session.apply("clear what areas left over", objects.delete(self.session.document, gone))
        self.forget()

    def forget(self) -> None:
        self.sources, self.made, self.scope = set(), set(), ()

    def leave(self) -> None:
        self._net = None
        self.swept, self.hovered = [], None
        self.forget()

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.swept:
            self.swept, self.last = [], None
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        net, _ = self.net()
        view = self.sheet.viewport.affine()
        painter.setPen(QPen(QColor(theme.INK), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for path in net.paths:
            painter.drawPath(qt_path(path, view))
        chosen = self.swept or ([self.hovered] if self.hovered is not None else [])
        chosen = [i for i in chosen if i < len(net.areas)]
        if chosen:
            colour = QColor(theme.VERMILION if self.removing else theme.AMBER)
            colour.setAlpha(130)
            painter.setBrush(
                QBrush(colour, Qt.BrushStyle.Dense4Pattern if self.removing else Qt.BrushStyle.SolidPattern)
            )
            painter.setPen(QPen(QColor(theme.VERMILION if self.removing else theme.AMBER_DARK), 2.0))
            painter.drawPath(qt_path(net.outline(chosen), view))
        if net.areas:
            words = (
                f"{len(self.swept)} areas"
                if len(self.swept) > 1
                else f"{len(net.areas)} area{'' if len(net.areas) == 1 else 's'} here"
            )
            self.tell(painter, words)
