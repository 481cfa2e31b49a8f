"""A little of what ``make monkey``, ``make crash`` and ``make hostile`` do much of."""

import pytest

import crash
import hostile
import monkey
from test_app import window  # noqa: F401
from volumen.demo import DEMOS


@pytest.mark.parametrize(("demo", "seed"), [("net-float", 7), ("ferry", 8)])
def test_random_hands_break_nothing(window, tmp_path, monkeypatch, demo, seed):  # noqa: F811
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(monkey.QFileDialog, name, getattr(monkey.QFileDialog, name))  # put back afterwards
    monkeypatch.setattr(monkey.QMessageBox, "exec", monkey.QMessageBox.exec)
    assert monkey.play(window, demo, list(monkey.events(seed, 150)), tmp_path) == 3


def test_a_run_is_made_shorter_while_it_fails_alike():
    run = [("event", k) for k in range(60)]

    def fresh(demo, shorter):
        wrong = ("event", 11) in shorter and ("event", 40) in shorter
        return monkey.Failure("it broke", len(shorter)) if wrong else None

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
    counts, _, wrong = hostile.run(reader, 12, seed=5)
    assert wrong == [] and sum(counts.values()) == 12
