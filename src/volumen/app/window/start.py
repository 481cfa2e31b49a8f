"""Starting the window. The render worker is started first, so that both get ready at the same time."""

from __future__ import annotations

import os
import signal
import sys
from importlib import import_module
from threading import Thread
from typing import TYPE_CHECKING

from volumen.app.commands.kept_work import show_kept_work
from volumen.app.state.news import Stage
from volumen.geometry.fonts import catalogue
from volumen.processes import get_ready
from volumen.render.worker.client import RenderClient

if TYPE_CHECKING:
    from volumen.app.window.window import Window

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
    from volumen.app.engine.faults import catch_faults
    from volumen.app.window.window import Window

    app = QApplication(sys.argv[:1])
    app.setApplicationName("Volumen")
    app.setDesktopFileName("volumen")
    theme.prepare(app)
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    window = Window(client)
    app.setStyleSheet(theme.STYLE)
    catch_faults(window.fault)
    if file is not None:
        window.files.load(file)
        if file.startswith("demo:"):
            window.session.set_stage(Stage.LIGHT)
    window.fit_screen()
    window.show()
    Thread(target=warm_up, daemon=True).start()
    offer_recovery(window)
    return int(app.exec())


def warm_up() -> None:
    """Load what only some tools need, so that their first use does not wait for it."""
    for name in ("scipy.interpolate", "scipy.ndimage", "scipy.sparse.csgraph", "scipy.spatial", "fontTools.svgLib"):
        import_module(name)
    catalogue()
    get_ready()


def offer_recovery(window: Window) -> None:
    """After a crash: show what was left behind."""
    from volumen.app.engine.recovery import left_behind

    if left_behind():
        show_kept_work(window, window.files)
