"""Long work that can be ended early: what is at work asks now and then whether it shall go on."""

from __future__ import annotations

import time
from collections.abc import Callable

Stop = Callable[[], bool]
SELDOM = 0.003  # seconds


class Stopped(Exception):
    """Work was ended early: its outcome is not wanted any more, or not now."""


def raise_if(stop: Stop | None) -> None:
    """Raise Stopped where ``stop`` says so."""
    if stop is not None and stop():
        raise Stopped


def now_and_then(stop: Stop | None) -> Stop | None:
    """``stop``, asked so seldom that asking costs nothing."""
    if stop is None:
        return None
    asked = time.perf_counter()

    def stops() -> bool:
        nonlocal asked
        now = time.perf_counter()
        if now - asked < SELDOM:
            return False
        asked = now
        return stop()

    return stops
