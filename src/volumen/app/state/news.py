"""The words of the one channel of news, and the stages of the work."""

from __future__ import annotations

from enum import IntEnum, StrEnum


class News(StrEnum):
    """What has changed. Who listens reads the new state from the session."""

    DOCUMENT = "document"  # the artwork, also in the middle of a gesture
    SELECTION = "selection"  # which objects are chosen
    ACTIVE = "active"  # the ingredient, stop or mesh points in hand
    TOOL = "tool"
    STAGE = "stage"
    LOOK = "look"  # how the work is looked at: flat, values, snapping, rulers, isolation
    VIEW = "view"  # zoomed or moved
    POINTER = "pointer"  # where the pointer is on the sheet
    FILE = "file"  # the file, its name, whether it is saved
    NOTE = "note"  # a line for the status bar
    PROOF = "proof"  # what hangs on the wall, and which press is proofed for
    PURITY = "purity"  # what exports will hold


class Stage(IntEnum):
    """The five stages, in their order."""

    DRAW = 0
    CARVE = 1
    COLOUR = 2
    LIGHT = 3
    PROOF = 4

    @property
    def title(self) -> str:
        return self.name.capitalize()
