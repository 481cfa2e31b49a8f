"""A drag as the hand feels it, for the bench: from the mouse event to the frame on the canvas, in a process of its own."""

from __future__ import annotations

import statistics
import sys
import time
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from volumen.app import theme
from volumen.app.window.window import Window
from volumen.render.worker.client import RenderClient


def measure(file: Path, x: float, y: float, frames: int) -> float:
    """Median milliseconds of a frame while what lies at (x, y) of a file's sheet is dragged to and fro."""
    client = RenderClient()
    app = QApplication([])
    theme.dress(app)
    window = Window(client)
    window.resize(1280, 800)
    window.show()
    window.files.load(str(file))
    end = time.monotonic() + 3  # the pile's small pictures are drawn meanwhile
    while time.monotonic() < end or not window.link.idle:
        app.processEvents()

    def at(sheet_x: float, sheet_y: float) -> QPoint:
        cx, cy = window.canvas.viewport.to_canvas((sheet_x, sheet_y))
        return QPoint(round(cx), round(cy))

    drawn: list[None] = []
    window.link.frame_ready.connect(lambda: drawn.append(None))
    window.take_tool("move")
    left = Qt.MouseButton.LeftButton
    QTest.mousePress(window.canvas, left, Qt.KeyboardModifier.NoModifier, at(x, y))
    times = []
    for i in range(frames):
        start, before = time.perf_counter(), len(drawn)
        QTest.mouseMove(window.canvas, at(x + 1 + i % 20 * 1.1, y + 1 + i % 25 * 1.1))
        while len(drawn) == before and time.perf_counter() - start < 0.5:
            app.processEvents()
        times.append((time.perf_counter() - start) * 1e3)
    QTest.mouseRelease(window.canvas, left, Qt.KeyboardModifier.NoModifier, at(x, y))
    window.session.history.mark_saved()
    window.close()
    return statistics.median(times[5:])


if __name__ == "__main__":
    print(measure(Path(sys.argv[1]), float(sys.argv[2]), float(sys.argv[3]), int(sys.argv[4])))
