"""The proofs that show the artwork on stock: in the colour that is chosen, or in all that it is offered in."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial

from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from volumen.app import theme
from volumen.app.engine.frames import image_of
from volumen.app.panels.proof_compare import Wall
from volumen.app.panels.proof_view import in_pixels, in_rows
from volumen.edit.print_check import READABLE
from volumen.render.worker.messages import ImageAnswer
from volumen.stock.contrast import Reading
from volumen.stock.prepared import size_of

_GAP = 6.0
_LABEL, _LEAST_LABEL = 15.0, 50.0  # pixels: of a line below each colour; narrower ones have none


def by_object(read: dict[str, list[Reading]]) -> list[list[tuple[Reading, str]]]:
    """What was read in all colours, an object at a time with its worst colour first; the worst object first."""
    found: dict[int, list[tuple[Reading, str]]] = {}
    for colour, readings in read.items():
        for r in readings:
            found.setdefault(r.node, []).append((r, colour))
    rows = [sorted(one, key=lambda each: each[0].ratio) for one in found.values()]
    return sorted(rows, key=lambda one: one[0][0].ratio)


class OnStockProofs(QObject):
    """Asks for the pictures on stock, paints them, and keeps what was read there; ``read_changed`` when that is new."""

    read_changed = Signal()

    def __init__(self, wall: Wall) -> None:
        super().__init__()
        self.wall = wall
        self.pictures: dict[tuple[str, str], QImage] = {}  # by proof and colour
        self.read: dict[str, list[Reading]] = {}  # by colour
        self.problem = ""

    def colours(self, name: str) -> tuple[str, ...]:
        """The colours that a proof shows; one without a name where the stock has none."""
        p = self.wall.session.proofing
        return tuple(p.on.colours) or ("",) if name == "all colours" else (p.chosen_colour,)

    def places(self, name: str, place: QRectF) -> dict[str, QRectF]:
        """Where each colour lies in the place of a proof."""
        wide, high = self.size()
        colours = self.colours(name)
        if len(colours) == 1:
            return {colours[0]: place}
        caption = _LABEL if place.width() / len(colours) > _LEAST_LABEL else 0.0
        return in_rows(colours, place.adjusted(-_GAP, -_GAP, _GAP, _GAP), wide / high, _GAP, caption)

    def size(self) -> tuple[float, float]:
        """Width and height of a picture on stock: as the worker drew it last, or as it will."""
        if self.pictures:
            image = next(iter(self.pictures.values()))
            return float(image.width()), float(image.height())
        wide, high = size_of(self.wall.session.proofing.on)
        return float(wide), float(high)

    def keep(self, names: Iterable[str]) -> None:
        """What was read belongs to what hangs: that of other colours is told no more."""
        shown = {c for name in names for c in self.colours(name)}
        if not self.read.keys() <= shown:
            self.read = {c: found for c, found in self.read.items() if c in shown}
            self.read_changed.emit()

    def ask(self, name: str, place: QRectF, ratio: float, owed: set[str], taken: Callable[[str], None]) -> None:
        """Ask for what a proof shows; ``taken`` is told each picture that has come."""
        session, p = self.wall.session, self.wall.session.proofing
        nodes = session.selection if p.alone else ()
        zoom = self.wall.view.zoom
        for colour, room in self.places(name, place).items():
            seen = self.wall.view.shown(room, self.size())[1]
            wanted = in_pixels(QRectF(0, 0, min(seen.width() * zoom, 1400), 1), ratio)[0]
            owed.add(f"{name} {colour}")
            done = partial(self._take, name, colour, taken)
            self.wall.link.request_image(nodes, (wanted, wanted), session.flat, done, None, p.stock_view(colour, True))

    def _take(self, name: str, colour: str, taken: Callable[[str], None], answer: ImageAnswer) -> None:
        self.problem = answer.problem
        if answer.problem:
            self.pictures.pop((name, colour), None)
        else:
            self.pictures[name, colour] = image_of(answer)
            self.read[colour] = answer.read
            self.read_changed.emit()
        taken(f"{name} {colour}")

    def forget(self) -> None:
        """Another stock, or another way to print on it: what there is shows something else."""
        self.pictures.clear()
        self.read.clear()

    def paint(self, painter: QPainter, name: str, place: QRectF) -> QRectF:
        """Paint what there is; gives back where it lies."""
        rooms = self.places(name, place)
        for colour, room in rooms.items():
            seen = self.wall.view.shown(room, self.size())[1]
            image = self.pictures.get((name, colour))
            if image is None:
                painter.fillRect(seen, QColor("#c3c1bb"))
                painter.setPen(QColor(theme.SOFT_INK))
                painter.drawText(seen, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.problem or "…")
                continue
            painter.save()
            painter.setClipRect(seen)
            painter.drawImage(self.wall.view.lies((0, 0, *self.size()), room, self.size()), image)
            painter.restore()
            if len(rooms) > 1 and place.width() / len(rooms) > _LEAST_LABEL:
                self._label(painter, colour, seen)
        return place if len(rooms) > 1 else self.wall.view.shown(place, self.size())[1]

    def _label(self, painter: QPainter, colour: str, seen: QRectF) -> None:
        low = [r for r in self.read.get(colour, []) if r.ratio < READABLE]
        words = f"{colour}: {len(low)} below 3 : 1" if low else f"{colour}: all reads"
        painter.setPen(QPen(QColor(theme.INK)))
        line = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, round(seen.width()))
        painter.drawText(QPointF(seen.left(), seen.bottom() + 12), line)

    def said(self, name: str) -> str:
        """What was measured, in words."""
        p = self.wall.session.proofing
        if self.problem:
            return self.problem
        if name == "all colours":
            return p.on.name
        colour = self.colours(name)[0]
        worst = next(iter(sorted(self.read.get(colour, []), key=lambda r: r.ratio)), None)
        at = f", {colour}" if colour else ""
        return f"{p.on.name}{at}" + (f": worst contrast {worst.ratio:.1f} : 1" if worst else "")
