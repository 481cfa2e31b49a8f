"""Faults raised inside what Qt calls: made whole before they reach the binding."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject


def keep_faults_whole() -> None:
    """From now on, in every class made from one of Qt's, what overrides a method of Qt raises whole exceptions.

    Python up to 3.11 leaves an exception that compiled code raises (a division by zero, an index out of range)
    without an instance until something catches it, and the binding ends the process when it meets one that way while
    an event is passed on from Python.
    """

    def wrap_overrides(made: type[QObject], /, **_: Any) -> None:
        of_qt = [vars(base) for base in made.__mro__ if base.__module__.startswith("PySide6")]
        for name, method in list(vars(made).items()):
            if callable(method) and not name.startswith("__") and any(name in names for names in of_qt):
                setattr(made, name, _whole(method))

    QObject.__init_subclass__ = classmethod(wrap_overrides)  # type: ignore[assignment]


def _whole(method: Callable[..., Any]) -> Callable[..., Any]:
    @functools.wraps(method)
    def called(*args: Any, **named: Any) -> Any:
        try:
            return method(*args, **named)
        except Exception:
            raise  # being caught is what makes it whole

    return called
