"""Painting that may fail: a painter left at work on a widget would take the whole program down."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable
from functools import wraps
from typing import TypeVar

from PySide6.QtGui import QPaintEvent

W = TypeVar("W")


def painted(paint: Callable[[W, QPaintEvent], None]) -> Callable[[W, QPaintEvent], None]:
    """A ``paintEvent`` that tells what it raises to ``sys.excepthook`` and then ends its painters, which live in the
    frames that the error holds."""

    @wraps(paint)
    def guarded(self: W, event: QPaintEvent) -> None:
        try:
            paint(self, event)
        except Exception as error:
            sys.excepthook(type(error), error, error.__traceback__)
            traceback.clear_frames(error.__traceback__)

    return guarded
