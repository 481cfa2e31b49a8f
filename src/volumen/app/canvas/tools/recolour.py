"""Recolouring a whole selection: hue, lightness, chroma and contrast by sliders, shown at once."""

from __future__ import annotations

from PySide6.QtGui import QPainter

from volumen.app.canvas.sheet import Pointer
from volumen.app.canvas.tools.base import Act, Option, Tool
from volumen.app.state.news import News, Stage
from volumen.app.state.registry import Shown
from volumen.model.recolour import recolour

_AT_REST = {"hue": 0.0, "lightness": 0.0, "chroma": 0.0, "contrast": 0.0}


class RecolourTool(Tool):
    """Shifts all colours of the selection together."""

    name = "recolour"
    icon = "contrast"
    keys = "Shift+G"
    toolbox = (Shown(Stage.COLOUR, 50),)
    hint = "Drag the sliders: every colour of what is selected shifts. Keep makes it stay, Back takes it back."
    options = (
        Option("hue", "hue", 0, -180, 180, "°", -1e6),
        Option("lightness", "lightness", 0, -60, 60, " %", -100, hard_high=100),
        Option("chroma", "chroma", 0, -100, 100, " %", -100, hard_high=1000),
        Option("contrast", "contrast", 0, -100, 100, " %", -100, hard_high=1000),
        Act("Keep", "keep", "make the new colours stay"),
        Act("Back", "back", "the colours as they were"),
    )

    def press(self, p: Pointer) -> None:
        self.keep()
        self.session.select(self.under(p)[:1])

    def option_changed(self, name: str, final: bool) -> None:
        """All sliders count together, from the colours as they were."""
        if not self.session.selection:
            self.session.say("select what shall be recoloured first")
            return
        v = self.values
        document = recolour(
            self.session.history.committed, self.session.selection,
            v["hue"], v["lightness"] / 100, v["chroma"] / 100, v["contrast"] / 100,
        )  # fmt: skip
        self.session.preview(document)

    def keep(self) -> None:
        self.session.commit("recolour")
        self.values.update(_AT_REST)

    def back(self) -> None:
        self.session.cancel()
        self.values.update(_AT_REST)
        self.session.tell(News.ACTIVE)

    def leave(self) -> None:
        self.keep()

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
