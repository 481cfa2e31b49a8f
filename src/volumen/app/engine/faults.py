"""Faults of our own: written to a log, said in the status bar, and the gesture under way undone. The window goes on."""

from __future__ import annotations

import re
import sys
import time
import traceback
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from types import TracebackType

from volumen.app.engine.folders import state_folder

_MOST_BYTES = 1 << 20
_ON_THE_WAY = re.compile(r"Error calling Python override of \w+::\w+\(\): ")  # what the binding puts before it


def log_file() -> Path:
    return state_folder() / "faults.log"


def log_fault(text: str) -> None:
    """Add to the log, which is begun anew when it is long; a log that cannot be written is no fault."""
    with suppress(OSError):
        file = log_file()
        file.parent.mkdir(parents=True, exist_ok=True)
        mode = "a" if file.exists() and file.stat().st_size < _MOST_BYTES else "w"
        with file.open(mode, encoding="utf-8", errors="replace") as log:
            log.write(f"{time.strftime('%Y-%m-%d %H:%M:%S')}\n{text.rstrip()}\n\n")


def catch_faults(tell: Callable[[str], None]) -> None:
    """From now on what nothing else catches, in events, timers and painting, is logged and told."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        log_fault("".join(traceback.format_exception(kind, error, trace)))
        tell(f"{kind.__name__}: {_ON_THE_WAY.sub('', str(error))}")

    sys.excepthook = hook
