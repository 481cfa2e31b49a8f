"""What commands may ask of the window they act in."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtWidgets import QWidget

from volumen.app.canvas.arranger import Arranger
from volumen.app.canvas.canvas import Canvas
from volumen.app.commands.foreign_reading import Reading
from volumen.app.engine.autosave import Autosave
from volumen.app.engine.frames import FrameLink
from volumen.app.state.session import Session
from volumen.model.ingredients import Ingredient, Recipe


class Desk(Protocol):
    """The desk that the work lies on. Commands know nothing else of the window."""

    session: Session
    canvas: Canvas
    link: FrameLink
    autosave: Autosave
    reading: Reading
    arranger: Arranger

    @property
    def dialog_parent(self) -> QWidget:
        """What dialogs belong to."""

    @property
    def swatch_group(self) -> str | None:
        """The group of the palette that new swatches go to."""

    def notice(self, message: str) -> None:
        """A problem, beside the artwork until it is read."""

    def take_tool(self, tool: str) -> None:
        """Take a tool; where the stage does not offer it, go to the one that does."""

    # What lies in the panels

    def add_ingredient(self, ingredient: Ingredient) -> None: ...

    def add_pair(self, pair: Recipe) -> None: ...

    def open_first_card(self) -> None: ...

    def rename_selected(self) -> None: ...

    def choose_by_eye(self, kind: str) -> None: ...

    def show_outputs(self) -> None: ...

    def compare(self) -> None: ...

    # The window itself

    def folded(self, side: str) -> bool: ...

    def fold(self, side: str) -> None: ...

    def toggle_full(self) -> None: ...

    def show_help(self) -> None: ...

    def show_command_list(self) -> None: ...

    def show_about(self) -> None: ...

    def leave(self) -> None: ...


def tell(desk: Desk, message: str) -> None:
    """A problem: in the status bar, and beside the artwork until it is read."""
    desk.session.say(message)
    desk.notice(message)


def tell_missing(desk: Desk, notes: list[str]) -> None:
    """What an SVG held that could not be kept."""
    if notes:
        desk.notice("Not kept from the SVG: " + ", ".join(notes) + ".")
