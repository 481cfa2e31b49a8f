"""Where the proofs of the wall hang, and which part of the sheet all of them show."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from volumen.geometry.path import Box

GAP, CAPTION = 18.0, 40.0
_DEEPEST = 64.0  # times larger than the whole sheet in its place


def hung(names: tuple[str, ...], large: str | None, room: QRectF, aspect: float) -> dict[str, QRectF]:
    """The place of each proof, captions left out: in rows as large as they fit, or one large with the others in a
    column beside it. ``aspect`` is the width of the sheet by its height."""
    if large in names and len(names) > 1:
        rest = [n for n in names if n != large]
        side = min(max(room.width() * 0.2, 90.0), (room.height() - GAP) / len(rest) * 1.1)
        wide = QRectF(room.left() + GAP, room.top() + GAP, room.width() - side - 3 * GAP, room.height() - GAP - CAPTION)
        column = QRectF(wide.right() + GAP, room.top(), side, room.height())
        return {large or "": wide} | _grid(rest, column, 1, 0.0)
    return in_rows(names, room, aspect)


def in_rows(
    names: tuple[str, ...], room: QRectF, aspect: float, gap: float = GAP, caption: float = CAPTION
) -> dict[str, QRectF]:
    """Places in as many columns as make them largest, each with room for a caption below."""
    best: tuple[float, int] = (0.0, 1)
    for columns in range(1, len(names) + 1):
        rows = -(-len(names) // columns)
        w = (room.width() - (columns + 1) * gap) / columns
        h = (room.height() - gap - rows * (gap + caption)) / rows
        best = max(best, (min(w, h * aspect), columns))
    return _grid(list(names), room, best[1], gap, gap, caption)


def _grid(
    names: list[str], room: QRectF, columns: int, margin: float, gap: float = GAP, caption: float = CAPTION
) -> dict[str, QRectF]:
    rows = max(-(-len(names) // columns), 1)
    w = (room.width() - 2 * margin - (columns - 1) * gap) / columns
    h = (room.height() - gap - rows * (gap + caption)) / rows
    out = {}
    for k, name in enumerate(names):
        x = room.left() + margin + (k % columns) * (w + gap)
        y = room.top() + gap + (k // columns) * (h + gap + caption)
        out[name] = QRectF(x, y, max(w, 1.0), max(h, 1.0))
    return out


def packed(sizes: tuple[int, ...], high: float, gap: float) -> list[tuple[float, float]]:
    """Where small pictures go, largest first: in columns of a height, each filled before the next begins."""
    out: list[tuple[float, float]] = []
    x = y = wide = 0.0
    for size in sizes:
        if y > 0 and y + size > high:
            x, y, wide = x + wide + gap, 0.0, 0.0
        out.append((x, y))
        y, wide = y + size + gap, max(wide, size)
    return out


def in_pixels(seen: QRectF, ratio: float) -> tuple[int, int]:
    """The size of a picture for a place on a screen of so many pixels a unit; one at least."""
    return max(round(seen.width() * ratio), 1), max(round(seen.height() * ratio), 1)


NEAREST = 8.0  # times as near as the whole sheet, at which one thing is shown


@dataclass(slots=True)
class WallView:
    """How near all proofs are looked at, and the place of the sheet in their middle (0..1 across and down)."""

    zoom: float = 1.0
    x: float = 0.5
    y: float = 0.5

    def fit(self) -> None:
        self.zoom, self.x, self.y = 1.0, 0.5, 0.5

    def look_at(self, box: Box, size: tuple[float, float]) -> None:
        """A part of the sheet in the middle, with as much again round it."""
        wide, high = max(box[2] - box[0], 1e-6), max(box[3] - box[1], 1e-6)
        self.zoom = min(max(min(size[0] / wide, size[1] / high) / 2, 1.0), NEAREST)
        self.x = min(max((box[0] + box[2]) / 2 / size[0], 0.0), 1.0)
        self.y = min(max((box[1] + box[3]) / 2 / size[1], 0.0), 1.0)

    def scale(self, place: QRectF, size: tuple[float, float]) -> float:
        """Pixels per unit in a place, for a sheet of some size."""
        return min(place.width() / size[0], place.height() / size[1]) * self.zoom

    def shown(self, place: QRectF, size: tuple[float, float]) -> tuple[Box, QRectF]:
        """The part of the sheet (user units) that a place shows, and where it lies there (pixels)."""
        k = self.scale(place, size)
        left = place.center().x() - self.x * size[0] * k
        top = place.center().y() - self.y * size[1] * k
        seen = place.intersected(QRectF(left, top, size[0] * k, size[1] * k))
        box = (seen.left() - left) / k, (seen.top() - top) / k, (seen.right() - left) / k, (seen.bottom() - top) / k
        return box, seen

    def lies(self, box: Box, place: QRectF, size: tuple[float, float]) -> QRectF:
        """Where a part of the sheet lies in a place (pixels), beyond its edges too."""
        k = self.scale(place, size)
        now, seen = self.shown(place, size)
        x, y = seen.left() + (box[0] - now[0]) * k, seen.top() + (box[1] - now[1]) * k
        return QRectF(x, y, (box[2] - box[0]) * k, (box[3] - box[1]) * k)

    def at(self, place: QRectF, size: tuple[float, float], p: QPointF) -> tuple[float, float]:
        """The place on the sheet, 0..1, under a pixel."""
        k = self.scale(place, size)
        return self.x + (p.x() - place.center().x()) / (size[0] * k), self.y + (p.y() - place.center().y()) / (
            size[1] * k
        )

    def zoom_at(self, factor: float, place: QRectF, size: tuple[float, float], p: QPointF) -> None:
        """Nearer or farther; what lies under a pixel stays there as far as the sheet reaches."""
        fixed = self.at(place, size, p)
        self.zoom = min(max(self.zoom * factor, 1.0), _DEEPEST)
        now = self.at(place, size, p)
        self.x, self.y = self.x + fixed[0] - now[0], self.y + fixed[1] - now[1]
        self.hold(place, size)

    def pan(self, place: QRectF, size: tuple[float, float], way: QPointF) -> None:
        k = self.scale(place, size)
        self.x, self.y = self.x - way.x() / (size[0] * k), self.y - way.y() / (size[1] * k)
        self.hold(place, size)

    def hold(self, place: QRectF, size: tuple[float, float]) -> None:
        """Never beyond the sheet where it is larger than its place; in the middle where it is smaller."""
        k = self.scale(place, size)
        self.x = _held(self.x, place.width() / (size[0] * k))
        self.y = _held(self.y, place.height() / (size[1] * k))


def _held(middle: float, share: float) -> float:
    return 0.5 if share >= 1 else min(max(middle, share / 2), 1 - share / 2)
