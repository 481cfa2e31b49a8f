"""Where what is kept from one start to the next lies."""

from __future__ import annotations

import os
import tempfile
from functools import cache
from pathlib import Path

import platformdirs


def state_folder() -> Path:
    """The person's state folder; where there is none that can be written, one for this computer's running time."""
    given = os.environ.get("VOLUMEN_STATE")
    return Path(given) if given else _usual()


def home() -> Path:
    """The person's home; the root where there is none."""
    try:
        return Path.home()
    except RuntimeError:
        return Path("/")


@cache
def _usual() -> Path:
    usual = Path(platformdirs.user_state_dir("volumen"))
    try:
        usual.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryFile(dir=usual):
            return usual
    except OSError:
        return Path(tempfile.gettempdir()) / f"volumen-{os.getuid()}"
