"""A little of what ``make monkey``, ``make crash`` and ``make hostile`` do much of."""

from multiprocessing import Pipe

import pytest
from msgspec.structs import replace

import crash
import fresh as fresh_ones
import hand
import hostile
import monkey
import walk
from volumen import caching
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.edit import objects
from volumen.render.worker.messages import SceneUpdate
from volumen.render.worker.service import Service
from volumen.render.worker.sync import Sender


@pytest.mark.parametrize(("demo", "seed"), [("wave", 8), ("ferry", 8)])
def test_random_hands_break_nothing(window, tmp_path, monkeypatch, demo, seed):
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(hand.QFileDialog, name, getattr(hand.QFileDialog, name))  # put back afterwards
    monkeypatch.setattr(hand.QMessageBox, "exec", hand.QMessageBox.exec)
    assert monkey.play(window, demo, list(monkey.events(seed, 150)), tmp_path) == 3


def test_a_run_is_made_shorter_while_it_fails_alike():
    run = [("event", k) for k in range(60)]

    def fresh(demo, shorter):
        wrong = ("event", 11) in shorter and ("event", 40) in shorter
        return hand.Failure("it broke", len(shorter)) if wrong else None

    assert monkey.shrunk("any", run, "it broke", fresh) == [("event", 11), ("event", 40)]


def test_saves_that_are_killed_or_fail_leave_a_whole_file():
    assert crash.kill_saves(12) == 12
    assert crash.inject_faults(DEMOS["ferry"][1]()) > 90


def test_a_window_killed_in_mid_edit_is_offered_at_the_next_start():
    assert crash.kill_windows(1, seed=4) == (1, 1)


def test_workers_killed_and_stopped_in_drags_walls_and_exports_are_replaced(tmp_path):
    assert crash.end_workers(3) == 3


@pytest.mark.parametrize("reader", hostile.READERS)
def test_hostile_files_are_read_or_refused_within_bounds(reader):
    counts, _, wrong = hostile.run(reader, 6, seed=5)
    assert wrong == [] and sum(counts.values()) == 6


# Soft light, meshes, cut slivers, blocks, copies along a path, knockouts; `make monkey` with --drags does so with all.
DRAGGED = ("kraken", "letters", "mussel", "net-float", "tote")


@pytest.mark.parametrize("demo", DRAGGED)
def test_after_a_drag_the_picture_at_rest_is_that_of_a_fresh_worker(demo):
    assert fresh_ones.drag_each(demo, 4, (240, 180)) == []


def test_what_is_deleted_is_forgotten_by_sender_receiver_and_builds():
    document = DEMOS["net-float"][1]()
    sender, service = Sender(), Service(Pipe()[0])
    service.take(SceneUpdate(sender.changes(document)))
    build(service.document, memo=service.memos[False])
    few = counts(sender, service)
    for _ in range(30):
        copied, _ = objects.duplicate(document, [n.id for n in document.root.children])
        service.take(SceneUpdate(sender.changes(copied)))
        build(service.document, memo=service.memos[False])
        service.take(SceneUpdate(sender.changes(document)))
        build(service.document, memo=service.memos[False])
    assert counts(sender, service) == few
    service.taken += 300
    service.tidy()
    assert sum(len(c) for c in caching._caches if not c.most_bytes) == 0, "and what was made of outlines that are gone"


def test_the_window_gives_back_what_it_worked_out_for_states_that_are_gone(window, qtbot, monkeypatch):
    """After many changes and a rest, and never in the middle of a gesture."""
    tidying, first = window._tidying, window.session.document
    tidying._rest.setInterval(0)
    kept = caching.Cache("of a test")
    kept.put(1, None, 2)
    for k in range(1, 301):
        window.session.preview(replace(first, next_id=first.next_id + k))
    qtbot.wait(30)
    assert len(kept) == 1 and tidying.changes >= 300
    window.session.commit("many")
    qtbot.waitUntil(lambda: len(kept) == 0 == tidying.changes, timeout=5000)


def counts(sender, service):
    memo = service.memos[False]
    kept = (memo.entries, memo.rows, memo.knockouts, memo.holes, memo.boxes)
    return len(sender._known), len(service.receiver._nodes), *map(len, kept)


@pytest.mark.parametrize(
    ("kind", "how", "part"), [("divide", "one", "commands"), ("ring", "one", "cards"), ("gradient", "all", "cards")]
)
def test_nothing_that_a_hand_asks_for_is_silent(window, tmp_path, monkeypatch, kind, how, part):
    """Every command and card button changes, shows or says something, and undo brings all of it back."""
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(hand.QFileDialog, name, getattr(hand.QFileDialog, name))
    monkeypatch.setattr(hand.QMessageBox, "exec", hand.QMessageBox.exec)
    found = walk.walked(window, tmp_path, [kind], (how,), (part,), every=5)
    assert found.count > 3 and not found.silent and not found.wrong
