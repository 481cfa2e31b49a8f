"""Fixtures shared by all tests."""

from __future__ import annotations

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QMessageBox

from volumen.app import theme
from volumen.app.engine import frames
from volumen.app.window.window import Window
from volumen.model.nodes import Document
from volumen.processes import get_ready
from volumen.render.worker.client import RenderClient

settings.register_profile("volumen", deadline=None, max_examples=40, derandomize=True)
settings.load_profile("volumen")


@pytest.fixture(autouse=True)
def _own_state(tmp_path, monkeypatch):
    """Recovery files of a test stay in its folder."""
    monkeypatch.setenv("VOLUMEN_STATE", str(tmp_path / "state"))


class LastingClient(RenderClient):
    """A client whose worker goes on from window to window: starting one takes longer than most tests."""

    def close(self) -> None:
        self._free_buffer()
        self.shape = (0, 0)
        self.forget()  # the next window tells it everything

    def renewed(self) -> LastingClient:
        """The same for another window, once the worker has answered all that the last one asked."""
        self.revive()
        last = self.request_purity(Document())
        while (answer := self.receive(20)) is not None and answer.id != last:
            pass
        self.close()
        return self


@pytest.fixture(scope="session")
def lasting_client():
    get_ready()  # as under a running window
    client = LastingClient()
    yield client
    RenderClient.close(client)


def opened(app, client):
    """A new window; the style goes on last, which is sooner done."""
    theme.prepare(app)
    w = Window(client.renewed())
    app.setStyleSheet(theme.STYLE)
    return w


def closing(w):
    w.canvas.drop()
    w.session.history.mark_saved()


@pytest.fixture
def window(request, qtbot, qapp, lasting_client, monkeypatch):
    """A window; with the mark ``one_window`` one that serves such tests of a module after another."""
    monkeypatch.setattr(frames, "REFINE_MS", 15)  # a hand's pause, which every test would wait for
    kept = request.node.get_closest_marker("one_window") is not None
    w = request.getfixturevalue("kept_window") if kept else opened(qapp, lasting_client)
    if kept:
        begun_anew(w)
    else:
        qtbot.addWidget(w, before_close_func=closing)
    w.show()
    qtbot.waitExposed(w)
    qtbot.waitUntil(lambda: w.link.idle and not w.link.image.isNull(), timeout=20000)
    yield w
    if kept:
        closing(w)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # no event loop runs here that would do it


def begun_anew(w):
    """A window as if nothing had been done in it."""
    s = w.session
    s.open(Document(), None, "untitled")
    s.set_stage(0)
    w.take_tool("move")
    s.flat = s.values = False
    s.snapping = True
    w.pile.search.clear()
    w.recipe.editor.open_kinds.clear()
    QApplication.clipboard().clear()
    w.canvas.fit()
    w.canvas.setFocus()


@pytest.fixture(scope="module")
def kept_window(qapp, tmp_path_factory):
    yield from lasting(qapp, tmp_path_factory)


@pytest.fixture
def answers(monkeypatch):
    """Sets what is answered to the question about unsaved work; counts how often it is asked."""
    asked = []

    def answer(word):
        def execute(box):
            asked.append(box.text())
            next(b for b in box.buttons() if b.text().startswith(word)).click()

        monkeypatch.setattr(QMessageBox, "exec", execute)
        return asked

    return answer


@pytest.fixture(scope="module")
def unseen(qapp, tmp_path_factory):
    """One window for all tests of a module, whose worker is asked nothing while absurd numbers stand in the document."""
    for w in lasting(qapp, tmp_path_factory):
        w.link.refresh = lambda: None
        w.show()
        QApplication.processEvents()
        yield w


def lasting(app, folders):
    """A window with a worker of its own."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("VOLUMEN_STATE", str(folders.mktemp("state")))
        w = opened(app, LastingClient())
        yield w
        closing(w)
        w.close()
        RenderClient.close(w.link.client)
        w.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
