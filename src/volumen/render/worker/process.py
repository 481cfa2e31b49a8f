"""Where the worker process begins. The window names it without loading what only the worker needs."""

from __future__ import annotations

from multiprocessing.connection import Connection


def work(connection: Connection) -> None:
    """Entry point of the worker process."""
    from volumen.render.worker.service import serve

    serve(connection)
