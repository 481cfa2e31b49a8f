"""What is kept of saved and unsaved work: files of their own, no litter, nothing twice, no needless questions."""

from __future__ import annotations

import os
import time

from scenes import lit_trio
from volumen.app.engine import recovery
from volumen.app.engine.recovery import About, left_behind
from volumen.edit import objects
from volumen.formats import native


def test_a_file_that_was_only_touched_is_no_question(window, answers, tmp_path):
    path = tmp_path / "touched.volumen"
    native.save(lit_trio(), path)
    assert window.files.load(str(path))
    asked = answers("Stay")
    os.utime(path, (path.stat().st_atime, path.stat().st_mtime + 100))
    (tmp_path / "again").write_bytes(path.read_bytes())
    (tmp_path / "again").replace(path)
    s = window.session
    s.apply("opacity", objects.set_fields(s.document, [1], opacity=0.5))
    assert window.files.save() and not asked


def test_what_is_kept_of_a_saved_file_is_a_file_of_its_own(window, tmp_path):
    """Another program that writes into the saved file, or cuts it short, takes nothing with it."""
    path = tmp_path / "own.volumen"
    s = window.session
    s.open(lit_trio(), None, "trio")
    assert window.files.save_to(path)
    with path.open("r+b") as file:
        file.truncate(10)
    kept = [f for f in recovery.earlier() if f.about.path == str(path)]
    assert kept and native.load(kept[0].file) == s.document


def test_recovery_keeps_no_litter_and_offers_nothing_twice(tmp_path):
    place = recovery.folder()
    place.mkdir(parents=True)
    old = time.time() - 600
    held = recovery.Keeper()
    held.write(lit_trio(), About("mine"), None)
    for name in ("gone.lock", "gone.json", ".gone-1.part"):
        (place / name).write_bytes(b"{}")
        os.utime(place / name, (old, old))
    (place / "young.lock").write_bytes(b"")
    assert left_behind() == []
    names = {f.name for f in place.iterdir() if f.is_file()}
    assert names == {"young.lock", *(f"{held.file.stem}{end}" for end in (".volumen", ".lock", ".json"))}
    held.close()
    saved = tmp_path / "twice.volumen"
    native.save(lit_trio(), saved)
    recovery.keep_copy(saved)
    native.save(lit_trio(), saved, preview=b"another picture")
    recovery.keep_copy(saved)
    assert len([f for f in recovery.earlier() if f.about.path == str(saved)]) == 1
