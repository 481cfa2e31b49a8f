"""Fixtures shared by all tests."""

from __future__ import annotations

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings

settings.register_profile("volumen", deadline=None, max_examples=40, derandomize=True)
settings.load_profile("volumen")


@pytest.fixture(autouse=True)
def _own_state(tmp_path, monkeypatch):
    """Recovery files of a test stay in its folder."""
    monkeypatch.setenv("VOLUMEN_STATE", str(tmp_path / "state"))
