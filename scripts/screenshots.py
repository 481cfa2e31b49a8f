"""Take the pictures of docs/screenshots from the demo artwork."""

from __future__ import annotations

import os
import time
from collections.abc import Iterable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PIL import Image

from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.demo.harbour_map import flat_map, harbour_map, lit_map
from volumen.edit import recipes
from volumen.model.ingredients import CastShadow
from volumen.model.nodes import Document
from volumen.model.recolour import map_colours
from volumen.model.tree import walk
from volumen.render.raster import render_bytes
from volumen.render.worker.client import RenderClient
from volumen.shading.paint import Colour
from volumen.stock.stocks import shipped_stocks

OUT = Path(__file__).parent.parent / "docs" / "screenshots"


def side_by_side(documents: Iterable[Document], file: str, tall: int = 560) -> None:
    """Artwork beside each other in one picture."""
    pictures = [Image.fromarray(render_bytes(build(d), tall / d.sheet.height)).convert("RGB") for d in documents]
    sheet = Image.new("RGB", (sum(p.width + 12 for p in pictures) - 12, tall), "white")
    x = 0
    for picture in pictures:
        sheet.paste(picture, (x, 0))
        x += picture.width + 12
    sheet.save(OUT / file, optimize=True)


def demos(*names: str) -> list[Document]:
    return [DEMOS[name][1]() for name in names]


def stages() -> None:
    client = RenderClient()
    from PySide6.QtWidgets import QApplication

    from volumen.app import theme
    from volumen.app.canvas.sheet import Pointer
    from volumen.app.window.window import Window

    app = QApplication([])
    theme.dress(app)
    window = Window(client)
    window.show()

    def settle(seconds: float = 1.6) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end or not window.link.idle:
            app.processEvents()
            time.sleep(0.01)

    def choose(name: str) -> None:
        window.session.select([n.id for n in walk(window.session.document.root) if n.name == name])

    def sweep(*way: tuple[float, float]) -> None:
        """Hold a sweep across areas where it is."""
        tool = window.canvas.tool
        places = [window.canvas.viewport.to_canvas(p) for p in way]
        tool.press(Pointer(places[0], way[0]))
        for at, p in zip(places, way, strict=True):
            window.canvas.pointer = at
            tool.move(Pointer(at, p))

    def shoot(name: str) -> None:
        settle()
        window.grab().save(str(OUT / f"{name}.png"))

    window.files.load("demo:urchin")
    choose("word")
    window.take_tool("text")
    settle(4)
    shoot("1-draw")
    window.session.set_stage(1)
    choose("plate")
    window.session.select(window.session.selection[:1])
    window.take_tool("rounding")
    shoot("2-carve")
    window.files.load("demo:porthole")
    window.session.set_stage(0)
    choose("bolts")
    window.take_tool("repeat")
    window.recipe.editor.open_first()
    window.canvas.zoom(1.25)
    settle(4)
    shoot("7-repeat")
    window.files.load("demo:rope")
    choose("sprigs below")
    window.recipe.editor.open_first()
    settle(6)
    shoot("garland")
    window.files.load("demo:letters")
    window.session.set_stage(3)
    choose("KELDER")
    window.take_tool("block")
    window.recipe.editor.toggle(1)
    settle(6)
    shoot("block")
    window.files.load("demo:wave")
    ids = {n.name: n.id for n in walk(window.session.document.root.children[1])}
    window.session.select([ids["tile"], ids["wave"], ids["crest"], ids["sun"]])
    window.canvas.fit_selection()
    window.take_tool("areas")
    sweep((250, 300), (330, 330))
    shoot("2-areas")
    window.canvas.tool.leave()
    window.canvas.fit()
    window.files.load("demo:mussel")
    window.session.set_stage(2)
    choose("shell")
    window.take_tool("mesh")
    window.canvas.tool.choose(((4, 3), (4, 4), (5, 3), (5, 4)))
    window.recipe.editor.open_first()
    settle(4)  # the pile's small pictures follow when the worker rests
    shoot("3-colour")
    window.files.load("demo:rosette")
    window.take_tool("spindle")
    choose("comma 1")
    window.recipe.editor.open_first()
    settle(4)
    shoot("3-spindle")
    window.files.load("demo:net-float")
    window.session.set_stage(3)
    choose("brass ball")
    window.recipe.editor.toggle(2)
    shoot("4-light")
    window.session.select(())
    window.session.set_stage(4)
    window.proof.device.setCurrentIndex(1)
    window.proof.refresh()
    window.session.apply("duller", duller(window.session.document))
    window.session.set_proofing(
        shown=("as drawn", "values only", "press proof", "total ink", "compare", "small sizes"), against="steps ago"
    )
    settle(6)
    shoot("5-proof")
    window.session.undo()
    window.files.load("demo:tote")
    window.session.set_stage(4)
    window.proof.device.setCurrentIndex(3)
    window.session.set_proofing(shown=("all colours", "underbase", "stock"), large="all colours")
    settle(9)
    shoot("5-cloth")
    window.files.load("demo:tea-label")
    window.session.set_stage(4)
    window.proof.device.setCurrentIndex(1)
    tin = next(s for s in shipped_stocks() if s.name == "tea tin and jar")
    shown = ("press proof", "plates", "stock", "printed")
    window.session.set_proofing(shown=shown, large=None, stock=tin, colour="steel", hidden_plates=(0, 1, 2, 3))
    settle(9)
    shoot("5-plates")
    window.session.set_stage(3)
    window.session.open(flat_map(), None, "harbour map, flat")
    window.choosing.show_kind("first light")
    settle(4)
    shoot("4-choices")
    window.choosing.hide()
    window.files.load("demo:whale")
    window.session.apply("turn a shadow", turned_shadow(window.session.document))
    window.take_tool("light check")
    settle(4)
    shoot("4-check")
    window.session.undo()  # what is saved may be closed without a question
    settle()
    window.close()
    settle(0.2)


def duller(document: Document) -> Document:
    """A document with its largest shape in another colour, for the comparison to show."""
    ball = next(n for n in walk(document.root) if n.name == "brass ball")
    return map_colours(
        document, (ball.id,), lambda c: Colour(0.25 * c.r + 0.3, 0.25 * c.g + 0.35, 0.25 * c.b + 0.4, c.a)
    )


def turned_shadow(document: Document) -> Document:
    """A document with the first cast shadow turned away from the lamp, for the check to find."""
    for node in walk(document.root):
        for k, i in enumerate(node.recipe):
            if isinstance(i, CastShadow) and node.name == "body":
                return recipes.edit_alike(document, (node.id,), k, i, angle=80.0)
    return document


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    side_by_side((flat_map(), lit_map(), harbour_map()), "first-light.png", 400)
    side_by_side(demos("urchin", "tote", "wave"), "drawn-and-carved.png")
    side_by_side(demos("whale", "porthole", "jelly"), "lit.png")
    side_by_side(demos("seaglass", "kraken"), "glass-and-ink.png")
    side_by_side(demos("letters", "knot", "rope"), "repeated-and-solid.png")
    stages()


if __name__ == "__main__":
    main()
