"""What the window remembers from one start to the next: sizes of panels, colours of guides."""

from __future__ import annotations

from PySide6.QtCore import QSettings

from volumen.app.engine.folders import state_folder


def remembered() -> QSettings:
    return QSettings(str(state_folder() / "window.ini"), QSettings.Format.IniFormat)
