"""Fixtures shared by all tests."""

from __future__ import annotations

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings

from volumen.model.nodes import Document
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
    client = LastingClient()
    yield client
    RenderClient.close(client)
