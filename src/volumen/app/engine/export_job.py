"""An export in a process of its own: the window stays free, and cancelling leaves no half file."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from volumen.formats import native
from volumen.formats.files import FileProblem, remove_left_parts
from volumen.formats.options import ExportOptions
from volumen.model.nodes import Document


def _work(connection: Connection, data: bytes, path: str, options: ExportOptions) -> None:
    from volumen.formats.export import export  # loaded here, so that the window starts without it

    try:
        close = export(native.decode(data, "artwork"), Path(path), options, lambda v: connection.send(v))
        if close is not None:
            connection.send((f"its vector form differs by {close}",))
        connection.send("")
    except FileProblem as problem:
        connection.send(str(problem))
    except Exception as error:
        connection.send(f"the export failed: {error}")


class ExportJob(QObject):
    """Runs one export. ``progress`` gets 0..1, ``done`` an error message or nothing."""

    def __init__(
        self, document: Document, path: Path, options: ExportOptions,
        progress: Callable[[float], None], done: Callable[[str], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self.path, self._progress, self._done = path, progress, done
        self.remark = ""  # how close the vector form comes
        context = multiprocessing.get_context("spawn")
        self._connection, other = context.Pipe()
        self._process = context.Process(
            target=_work, args=(other, native.encode(document), str(path), options), daemon=True
        )
        self._process.start()
        other.close()
        self._timer = QTimer(self, interval=40)
        self._timer.timeout.connect(self._poll)
        self._timer.start()

    def _poll(self) -> None:
        try:
            while self._connection.poll():
                message = self._connection.recv()
                if isinstance(message, tuple):
                    self.remark = message[0]
                    continue
                if isinstance(message, str):
                    self._end(message)
                    return
                self._progress(message)
        except (EOFError, OSError):
            self._end("the export stopped unexpectedly; the old file, if there was one, is intact")

    def _end(self, message: str) -> None:
        self._timer.stop()
        self._process.join(1)
        self._connection.close()
        self._done(message)

    def cancel(self) -> None:
        """Stop at once. The file is put in place only when complete, so the old one stays."""
        self._timer.stop()
        self._process.kill()
        self._process.join(1)
        self._connection.close()
        remove_left_parts(self.path)
        self._done("cancelled")
