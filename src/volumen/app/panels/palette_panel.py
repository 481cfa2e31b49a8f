"""The palette beside the pile: swatches in groups, saved gradients and looks. Click to use, drag to reorder or to
drop on a stop or an object; a menu changes, names and removes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QMimeData, QPoint, QPointF, QRect, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDrag,
    QDragEnterEvent,
    QDropEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from volumen.app import theme
from volumen.app.canvas.swatch_drag import MIME, dropped
from volumen.app.panels.ink_fields import InkFields
from volumen.app.panels.motif_button import MotifButton
from volumen.app.state.colouring import give_colour, give_gradient
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.colours import HARBOUR, ColourPanel
from volumen.app.widgets.painting import painted
from volumen.app.widgets.scrolled import show_body
from volumen.app.widgets.stopbar import paint_ramp
from volumen.colour.srgb import to_hex
from volumen.edit import palette
from volumen.edit.looks import give_look
from volumen.model.nodes import Look, SavedGradient, Swatch
from volumen.shading.paint import Colour, colour

_SIZE, _GAP = 21, 3
_WIDE = 8


class SwatchGrid(QWidget):
    """The swatches of one group."""

    def __init__(self, panel: PalettePanel, group: str, swatches: list[Swatch]) -> None:
        super().__init__()
        self.panel, self.group, self.swatches = panel, group, swatches
        rows = (len(swatches) + _WIDE - 1) // _WIDE
        self.setFixedHeight(max(rows, 1) * (_SIZE + _GAP))
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        self.setAccessibleName(f"swatches {group}".strip())
        self._pressed: tuple[QPointF, int] | None = None

    def place(self, i: int) -> QRect:
        return QRect(QPoint(i % _WIDE * (_SIZE + _GAP), i // _WIDE * (_SIZE + _GAP)), QSize(_SIZE, _SIZE))

    def at(self, p: QPointF) -> int | None:
        return next((i for i in range(len(self.swatches)) if self.place(i).contains(p.toPoint())), None)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, s in enumerate(self.swatches):
            box = self.place(i).adjusted(1, 1, -1, -1)
            if s.colour.a < 1:
                theme.paint_squares(painter, box.toRectF(), 4)
            used = s.id and s.id == self.panel.editing
            painter.setPen(QPen(QColor(theme.VERMILION if used else "#8f8d86"), 2 if used else 1))
            painter.setBrush(theme.qcolor(s.colour.rgb, s.colour.a))
            painter.drawRoundedRect(box, 4, 4)
            if s.ink is not None:  # a drop of ink in its corner
                painter.setPen(QPen(QColor("white"), 1))
                painter.setBrush(QColor(theme.INK))
                painter.drawEllipse(QPointF(box.right() - 3.5, box.bottom() - 3.5), 3.0, 3.0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        i = self.at(event.position())
        if event.button() == Qt.MouseButton.LeftButton and i is not None:
            self._pressed = (event.position(), i)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        i = self.at(event.position())
        if self._pressed is None:
            s = self.swatches[i] if i is not None else None
            ink = f", spot ink {s.ink.name}" if s and s.ink else ""
            self.setToolTip(f"{s.name}  {to_hex(s.colour.rgb)}{ink}" if s else "")
            return
        start, k = self._pressed
        if (event.position() - start).manhattanLength() > 6:
            self._pressed = None
            self._drag(self.swatches[k])

    def _drag(self, s: Swatch) -> None:
        data = QMimeData()
        data.setData(MIME, f"{s.id} {s.colour.r} {s.colour.g} {s.colour.b} {s.colour.a}".encode())
        data.setColorData(theme.qcolor(s.colour.rgb, s.colour.a))
        drag = QDrag(self)
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.CopyAction | Qt.DropAction.MoveAction)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None:
            s = self.swatches[self._pressed[1]]
            self._pressed = None
            give_colour(self.panel.session, s.colour, s.id or None)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        i = self.at(QPointF(event.pos()))
        if i is not None and self.swatches[i].id:
            self.panel.swatch_menu(self.swatches[i], event.globalPos())

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        found = dropped(event.mimeData())
        if found is None or found[0] is None:
            return
        i = self.at(event.position())
        before = self.swatches[i].id if i is not None else None
        s = self.panel.session
        s.apply("move swatch", palette.move_swatch(s.document, found[0], before, self.group))
        event.acceptProposedAction()


class _Bar(QWidget):
    """A saved gradient."""

    def __init__(self, panel: PalettePanel, saved: SavedGradient) -> None:
        super().__init__()
        self.panel, self.saved = panel, saved
        self.setFixedHeight(22)
        self.setToolTip(f"{saved.name}: click to use, linked")
        self.setAccessibleName(f"gradient {saved.name}")

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_ramp(painter, self.rect().toRectF().adjusted(1, 2, -1, -3), self.saved.stops, self.saved.oklab)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            give_gradient(self.panel.session, self.saved)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        s = self.panel.session
        menu.addAction(
            "Remove from the palette", lambda: s.apply("remove", palette.remove_gradient(s.document, self.saved.id))
        )
        menu.exec(event.globalPos())


class PalettePanel(QScrollArea):
    """Swatches, saved gradients and looks of the document."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        """``run`` runs a command by its id."""
        super().__init__()
        self.session, self.run = session, run
        self.editing: int | None = None
        self.chosen_group: str | None = None  # where new swatches go
        self._known: object = None
        self.grids: list[SwatchGrid] = []
        self.setWidgetResizable(True)
        self.setObjectName("side")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        session.on((News.DOCUMENT,), self.refresh)
        self.refresh()

    def refresh(self) -> None:
        if self.session.document.palette is not self._known and not self._edits_alone():
            self._known = self.session.document.palette
            self._build()

    def _edits_alone(self) -> bool:
        """While a swatch's colour is dragged only its square changes."""
        if self.editing is None or not self.session.history.in_gesture:
            return False
        known = {s.id: s for s in self.session.document.palette.swatches}
        for grid in self.grids:
            grid.swatches = [known.get(s.id, s) for s in grid.swatches]
            grid.update()
        return True

    def _build(self) -> None:
        body = QWidget()
        body.setObjectName("side")
        column = QVBoxLayout(body)
        column.setContentsMargins(12, 8, 6, 8)
        column.setSpacing(4)
        column.addLayout(self._head())
        p = self.session.document.palette
        self.grids = []
        offered = [Swatch(0, text, colour(text)) for text in HARBOUR]
        rows = [(g, [s for s in p.swatches if s.group == g]) for g in palette.groups(p)] or [("harbour", offered)]
        for group, swatches in rows:
            if group:
                column.addWidget(self._group_head(group))
            grid = SwatchGrid(self, group, swatches)
            self.grids.append(grid)
            column.addWidget(grid)
        if self.editing is not None:
            self._add_editor(column)
        for saved in p.gradients:
            column.addWidget(_Bar(self, saved))
        for look in p.looks:
            column.addWidget(self._look(look))
        for motif in p.motifs:
            column.addWidget(MotifButton(self.session, motif))
        column.addStretch(1)
        show_body(self, body)

    def _group_head(self, group: str) -> QToolButton:
        """The name of a group; a click makes it the one that new swatches go to, or none."""
        button = QToolButton()
        button.setText(f"{group}  · new ones go here" if group == self.chosen_group else group)
        button.setCheckable(True)
        button.setChecked(group == self.chosen_group)
        button.setToolTip("click: new swatches go into this group")
        button.setAccessibleName(f"group of swatches {group}")
        button.clicked.connect(lambda on: self.choose_group(group if on else None))
        return button

    def choose_group(self, group: str | None) -> None:
        self.chosen_group = group
        self._build()

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        title = QLabel("PALETTE")
        title.setObjectName("heading")
        row.addWidget(title, 1)
        for icon, tip, call in (
            ("plus", "keep the colour in use", partial(self.run, "colour.keep_colour")),
            ("ellipsis", "more about the palette", self.menu),
        ):
            button = QToolButton()
            button.setIcon(theme.icon(icon, theme.SOFT_INK))
            button.setToolTip(tip)
            button.setAccessibleName(f"palette: {tip}")
            button.clicked.connect(call)
            row.addWidget(button)
        return row

    def _look(self, look: Look) -> QToolButton:
        button = QToolButton()
        button.setText(look.name)
        button.setToolTip("click to give this look to what is selected")
        button.clicked.connect(lambda: self._give_look(look))
        button.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        s = self.session

        def remove() -> None:
            s.apply("remove look", palette.remove_look(s.document, look.id))

        button.customContextMenuRequested.connect(
            lambda at: self._pop([("Remove from the palette", remove)], button.mapToGlobal(at))
        )
        return button

    def _give_look(self, look: Look) -> None:
        s = self.session
        if not s.selection:
            s.say("select what shall take the look first")
            return
        s.apply("give look", give_look(s.document, s.selection, look))

    def _pop(self, rows: Sequence[tuple[str, Callable[[], object]]], at: QPoint) -> None:
        menu = QMenu(self)
        for title, call in rows:
            menu.addAction(title, call)
        menu.exec(at)

    def menu(self) -> None:
        titles = {
            "from_selection": "Swatches from the selection", "from_picture": "Swatches from the reference picture",
            "keep_gradient": "Keep this gradient", "keep_look": "Keep this look",
            "keep_motif": "Keep as a motif",
            "read_palette": "Read a palette …", "write_palette": "Write the palette …",
        }  # fmt: skip
        menus = {"keep_motif": "object"}
        rows = [(title, partial(self.run, f"{menus.get(k, 'colour')}.{k}")) for k, title in titles.items()]
        self._pop(rows, self.mapToGlobal(QPoint(60, 30)))

    def swatch_menu(self, s: Swatch, at: QPoint) -> None:
        session = self.session
        self._pop(
            [
                ("Change …", lambda: self.edit(s.id)),
                ("Remove", lambda: session.apply("remove swatch", palette.remove_swatch(session.document, s.id))),
            ],
            at,
        )

    # -- changing a swatch, in place

    def edit(self, swatch_id: int | None) -> None:
        self.editing = swatch_id
        self._build()

    def _add_editor(self, column: QVBoxLayout) -> None:
        found = palette.swatch(self.session.document, self.editing)
        if found is None:
            self.editing = None
            return
        name = QLineEdit(found.name)
        name.setAccessibleName("name of the swatch")
        group = QLineEdit(found.group)
        group.setAccessibleName("group of the swatch")
        group.setPlaceholderText("group")
        s, i = self.session, found.id
        name.editingFinished.connect(lambda: self._set(i, "rename swatch", name=name.text()))
        group.editingFinished.connect(lambda: self._set(i, "move swatch", group=group.text()))
        colours = ColourPanel(compact=True)
        colours.show_colour(found.colour)
        colours.preview.connect(lambda c: s.preview(palette.set_swatch(s.document, i, colour=c)))
        colours.done.connect(lambda c: self._recolour(i, c))
        done = QToolButton()
        done.setText("done")
        done.clicked.connect(lambda: self.edit(None))
        for widget in (name, group, colours, InkFields(s, found), done):
            column.addWidget(widget)

    def _set(self, swatch_id: int, label: str, **fields: object) -> None:
        s = self.session
        changed = palette.set_swatch(s.document, swatch_id, **fields)
        if palette.swatch(s.document, swatch_id) != palette.swatch(changed, swatch_id):
            s.apply(label, changed)

    def _recolour(self, swatch_id: int, value: Colour) -> None:
        s = self.session
        s.preview(palette.set_swatch(s.document, swatch_id, colour=value))
        s.commit("change swatch")
