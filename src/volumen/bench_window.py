"""A drag as the hand feels it: from the mouse event to the frame on the canvas. Run alone for each document."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time


def frame_in_window(count: int, frames: int) -> float:
    """Median milliseconds of a frame while one of ``count`` tiles is dragged, in a process with a window of its own."""
    command = [sys.executable, "-m", "volumen.bench_window", str(count), str(frames)]
    out = subprocess.run(command, capture_output=True, text=True, check=True)
    return float(out.stdout.split()[-1])


def _measure(count: int, frames: int) -> float:
    from PySide6.QtCore import QPoint, Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from volumen.app import theme
    from volumen.app.window import Window
    from volumen.bench_carve import tiles
    from volumen.render.client import RenderClient

    client = RenderClient()
    app = QApplication([])
    theme.load_fonts(app)
    app.setStyle("Fusion")
    app.setStyleSheet(theme.STYLE)
    window = Window(client)
    window.resize(1280, 800)
    window.show()
    window.session.open(tiles(count), None, "tiles")
    end = time.monotonic() + 3  # the pile's small pictures are drawn meanwhile
    while time.monotonic() < end or not window.link.idle:
        app.processEvents()

    def at(x: float, y: float) -> QPoint:
        cx, cy = window.canvas.viewport.to_canvas((x, y))
        return QPoint(round(cx), round(cy))

    drawn: list[None] = []
    window.link.frame_ready.connect(lambda: drawn.append(None))
    window.take_tool("move")
    left = Qt.MouseButton.LeftButton
    QTest.mousePress(window.canvas, left, Qt.KeyboardModifier.NoModifier, at(54, 10))
    times = []
    for i in range(frames):
        start, before = time.perf_counter(), len(drawn)
        QTest.mouseMove(window.canvas, at(55 + i % 20 * 1.1, 11 + i % 25 * 1.1))
        while len(drawn) == before and time.perf_counter() - start < 0.5:
            app.processEvents()
        times.append((time.perf_counter() - start) * 1e3)
    QTest.mouseRelease(window.canvas, left, Qt.KeyboardModifier.NoModifier, at(55, 11))
    window.session.history.mark_saved()
    window.close()
    return statistics.median(times[5:])


if __name__ == "__main__":
    print(_measure(int(sys.argv[1]), int(sys.argv[2])))
