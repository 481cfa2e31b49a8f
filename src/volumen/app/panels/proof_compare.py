"""The proof that compares the artwork with another state of it, or with another picture."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Protocol

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from volumen.app import theme
from volumen.app.engine.frames import FrameLink, image_of
from volumen.app.panels.proof_view import WallView, in_pixels
from volumen.app.state.session import Session
from volumen.colour.press_views import ProofView
from volumen.geometry.path import Box
from volumen.model.nodes import Document, Image
from volumen.model.tree import update_nodes, walk
from volumen.render.worker.messages import ImageAnswer

_GRIP = 7.0  # pixels beside the line that take hold of it


class Wall(Protocol):
    """What the proof asks of the wall that it hangs on."""

    session: Session
    link: FrameLink
    view: WallView

    @property
    def size_of_sheet(self) -> tuple[float, float]: ...


def only_references(document: Document) -> Document | None:
    """The document with its reference pictures alone; None where there are none."""
    kept = {n.id for n in walk(document.root) if isinstance(n, Image) and n.visible}
    if not kept:
        return None
    hidden = [n.id for n in walk(document.root) if n.id and not n.children and n.id not in kept]
    made = update_nodes(document, hidden, lambda n: replace(n, visible=False))
    unhidden = [n.id for n in walk(made.root) if n.children and n.id]
    made = update_nodes(made, unhidden, lambda n: replace(n, recipe=()))
    return replace(made, root=replace(made.root, recipe=()))


def compared_with(session: Session, file: tuple[str, Document] | None) -> tuple[Document | None, str]:
    """What the artwork is compared with, and how that is called; ``file``: the other file that was chosen, if any."""
    p = session.proofing
    if p.against == "as saved":
        return session.history.saved, "as saved" if session.path else "as it was opened"
    if p.against == "steps ago":
        step = session.history.back(p.steps)
        return step.document, f"before '{session.history.back(p.steps - 1).label}'"
    if p.against == "the reference":
        return only_references(session.document), "the reference"
    return (file[1], file[0]) if file else (None, "no file chosen yet")


def paint_wipe(painter: QPainter, x: float, top: float, foot: float) -> None:
    """The line that wipes between two pictures, with its grip."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for colour, width in ((QColor("white"), 3.0), (QColor(theme.INK), 1.2)):
        painter.setPen(QPen(colour, width))
        painter.drawLine(QPointF(x, top), QPointF(x, foot))
    painter.setBrush(QColor("white"))
    painter.setPen(QPen(QColor(theme.INK), 1.2))
    painter.drawEllipse(QPointF(x, (top + foot) / 2), _GRIP, _GRIP)
    painter.setBrush(Qt.BrushStyle.NoBrush)


class Comparing:
    """Asks for the two pictures, paints them, and has the line that wipes between them."""

    def __init__(self, wall: Wall) -> None:
        self.wall = wall
        self.file: tuple[str, Document] | None = None
        self.line = 0.5  # of the way across, 0..1
        self.pictures: dict[str, tuple[QImage, Box]] = {}
        self.figures: dict[str, float] = {}

    def other(self) -> tuple[Document | None, str]:
        """What the artwork is compared with, and how that is called."""
        return compared_with(self.wall.session, self.file)

    def places(self, place: QRectF) -> dict[str, QRectF]:
        """Where the two pictures lie: over one another, or side by side."""
        if self.wall.session.proofing.by != "beside":
            return {"mine": place, "other": place}
        half = QRectF(place.left(), place.top(), place.width() / 2 - 3, place.height())
        return {"mine": half, "other": half.translated(place.width() / 2 + 3, 0)}

    def ask(self, place: QRectF, ratio: float, owed: set[str], taken: Callable[[str], None]) -> None:
        """Ask for what is shown; ``taken`` is told each picture that has come."""
        session, view, size = self.wall.session, self.wall.view, self.wall.size_of_sheet
        document, _ = self.other()
        p, self.figures = session.proofing, {}
        if document is None:
            self.pictures.clear()
            return
        asked = ("other",) if p.by == "difference" else ("mine", "other")
        for name in asked:
            box, seen = view.shown(self.places(place)[name], size)
            owed.add(f"compare {name}")
            seen_as = ProofView("difference") if p.by == "difference" else None
            self.wall.link.request_image(
                (), in_pixels(seen, ratio), session.flat, partial(self._take, name, box, taken), box, seen_as,
                document if name == "other" else None, name == "other" and p.against == "the reference",
            )  # fmt: skip

    def _take(self, name: str, box: Box, taken: Callable[[str], None], answer: ImageAnswer) -> None:
        self.pictures[name] = (image_of(answer), box)
        self.figures = answer.figures or self.figures
        taken(f"compare {name}")

    def paint(self, painter: QPainter, place: QRectF) -> QRectF:
        """Paint what there is; gives back where the sheet lies."""
        by, size = self.wall.session.proofing.by, self.wall.size_of_sheet
        places = self.places(place)
        whole = self.wall.view.shown(place, size)[1]
        for name in ("other",) if by == "difference" else ("mine", "other"):
            seen = self.wall.view.shown(places[name], size)[1]
            if name == "mine" or by != "wipe":
                painter.fillRect(seen, QColor("white"))
            found = self.pictures.get(name)
            if found is None:
                continue
            image, box = found
            clip = QRectF(seen)
            if by == "wipe" and name == "other":
                clip.setLeft(seen.left() + seen.width() * self.line)
            painter.save()
            painter.setClipRect(clip)
            painter.drawImage(self.wall.view.lies(box, places[name], size), image)
            painter.restore()
        if by == "wipe":
            paint_wipe(painter, whole.left() + whole.width() * self.line, whole.top(), whole.bottom())
        return whole if by != "beside" else place

    def grips(self, place: QRectF, at: QPointF) -> bool:
        """Whether a place takes hold of the line."""
        seen = self.wall.view.shown(place, self.wall.size_of_sheet)[1]
        near = abs(at.x() - seen.left() - seen.width() * self.line) <= _GRIP
        return near and self.wall.session.proofing.by == "wipe" and seen.contains(at)

    def wipe(self, place: QRectF, at: QPointF) -> None:
        seen = self.wall.view.shown(place, self.wall.size_of_sheet)[1]
        self.line = min(max((at.x() - seen.left()) / max(seen.width(), 1.0), 0.0), 1.0)

    def said(self) -> str:
        document, name = self.other()
        if document is None:
            return f"{name}: there is nothing to compare with"
        if self.figures:
            return f"{name}: mean {self.figures['mean']:.2f}, worst {self.figures['worst']:.1f} (CIEDE2000)"
        return f"left as drawn, right {name}"
