"""Starting the window. The render worker is started first, so that both get ready at the same time."""

from __future__ import annotations

import os
import signal
import sys
from importlib import import_module
from pathlib import Path
from threading import Thread

from volumen.geometry.fonts import catalogue
from volumen.render.client import RenderClient

NO_SCREEN = (
    "volumen: there is no screen to open a window on.\n"
    "Start it inside a desktop session, or under a virtual screen:  xvfb-run -a volumen"
)


def run(file: str | None) -> int:
    """Open the window on a file, a demo (``demo:NAME``) or an empty sheet; the exit code."""
    headless = os.environ.get("QT_QPA_PLATFORM", "") in ("offscreen", "minimal", "vnc")
    if not headless and not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        print(NO_SCREEN, file=sys.stderr)
        return 1
    client = RenderClient()
    from PySide6.QtWidgets import QApplication

    from volumen.app import theme
    from volumen.app.window import Window

    app = QApplication(sys.argv[:1])
    app.setApplicationName("Volumen")
    app.setDesktopFileName("volumen")
    theme.dress(app)
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    window = Window(client)
    if file is not None:
        window.files.load(file)
        if file.startswith("demo:"):
            window.session.set_stage(3)
    window.fit_screen()
    window.show()
    Thread(target=warm_up, daemon=True).start()
    if file is None:
        offer_recovery(window)
    return int(app.exec())


def warm_up() -> None:
    """Load what only some tools need, so that their first use does not wait for it."""
    for name in ("scipy.interpolate", "scipy.ndimage", "scipy.sparse.csgraph", "scipy.spatial", "fontTools.svgLib"):
        import_module(name)
    catalogue()


def offer_recovery(window) -> None:  # type: ignore[no-untyped-def]
    """After a crash: open the newest work that was left behind, as unsaved."""
    from volumen.app.autosave import left_behind
    from volumen.formats import native
    from volumen.formats.files import FileProblem

    for file in left_behind():
        try:
            document = native.load(file)
        except FileProblem:
            file.unlink(missing_ok=True)
            continue
        name = file.stem.rpartition("-")[0] or "recovered"
        window.session.open(document, None, name)
        window.session.history.mark_unsaved()
        window.session.changed.emit("file")
        window.notice(f"'{name}' was recovered after a crash. Save it to keep it.")
        window.autosave.tick()
        _remove(file, window)
        window.canvas.fit()
        return


def _remove(file: Path, window) -> None:  # type: ignore[no-untyped-def]
    """The old recovery file goes once the new one is written."""
    if window.autosave._thread is not None:
        window.autosave._thread.join(10)
    file.unlink(missing_ok=True)
