"""Fitting a mesh in a thread of its own, with progress and a way to stop."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QObject, QThread, Signal

from volumen.colour.srgb import Floats
from volumen.shading.mesh import Mesh
from volumen.shading.mesh_fit import Cancelled, Fitted, fit


class _Work(QThread):
    progress = Signal(float)

    def __init__(self, mesh: Mesh, image: Floats, positions: int) -> None:
        super().__init__()
        self.mesh, self.image, self.positions = mesh, image, positions
        self.stopped = False
        self.result: Fitted | None = None
        self.error = ""

    def run(self) -> None:
        def tell(done: float) -> None:
            if self.stopped:
                raise Cancelled
            self.progress.emit(done)

        try:
            self.result = fit(self.mesh, self.image, self.positions, progress=tell)
        except Cancelled:
            pass
        except (ValueError, np.linalg.LinAlgError) as error:
            self.error = str(error)


class FitJob(QObject):
    """One fit. ``progress`` tells 0..1; ``done`` brings the result, or None when it was stopped or failed."""

    progress = Signal(float)
    done = Signal(object, str)

    def __init__(self, mesh: Mesh, image: Floats, positions: int) -> None:
        super().__init__()
        self._work = _Work(mesh, image, positions)
        self._work.progress.connect(self.progress)
        self._work.finished.connect(self._finished)
        self._work.start()

    def _finished(self) -> None:
        self.done.emit(self._work.result, self._work.error)

    def cancel(self) -> None:
        self._work.stopped = True

    def wait(self) -> None:
        self._work.wait(10_000)
