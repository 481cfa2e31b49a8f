"""Take the pictures of docs/screenshots from the demo artwork."""

from __future__ import annotations

import os
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PIL import Image

from volumen.build.scene import build
from volumen.demo import DEMOS
from volumen.model.tree import walk
from volumen.render.client import RenderClient
from volumen.render.raster import render_bytes

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
SIDE = 620


def hero() -> None:
    """Flat and lit, side by side, of both demos."""
    sheet = Image.new("RGB", (2 * SIDE, 2 * SIDE), "white")
    for row, (_, make) in enumerate(DEMOS.values()):
        document = make()
        for column, flat in enumerate((True, False)):
            pixels = render_bytes(build(document, flat), SIDE / document.sheet.width)
            sheet.paste(Image.fromarray(pixels).convert("RGB"), (column * SIDE, row * SIDE))
    sheet.save(OUT / "flat-and-lit.png", optimize=True)


def stages() -> None:
    client = RenderClient()
    from PySide6.QtWidgets import QApplication

    from volumen.app import theme
    from volumen.app.window import Window

    app = QApplication([])
    theme.load_fonts(app)
    app.setStyle("Fusion")
    app.setStyleSheet(theme.STYLE)
    window = Window(client)
    window.show()

    def settle(seconds: float = 1.6) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end or not window.link.idle:
            app.processEvents()
            time.sleep(0.01)

    def choose(name: str) -> None:
        window.session.select([n.id for n in walk(window.session.document.root) if n.name == name])

    def shoot(name: str) -> None:
        settle()
        window.grab().save(str(OUT / f"{name}.png"))

    window.files.load("demo:ferry")
    choose("hull")
    shoot("1-draw")
    window.session.set_stage(1)
    window.take_tool("points")
    choose("hull")
    shoot("2-carve")
    window.files.load("demo:net-float")
    window.session.set_stage(2)
    window.take_tool("spindle")
    choose("cut edge")
    window.recipe.toggle(0)
    shoot("3-colour")
    window.session.set_stage(3)
    choose("brass ball")
    window.recipe.toggle(2)
    shoot("4-light")
    window.session.select(())
    window.session.set_stage(4)
    shoot("5-proof")
    window.close()
    settle(0.2)


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    hero()
    stages()


if __name__ == "__main__":
    main()
