"""Random hands: seeded mouse, key, command and field events on the real window, with checks after each batch.

An event is a plain tuple, its places shares of what there is at the time, so a run can be played again and made shorter:
``python tests/monkey.py --demo ferry --events 10000 --seed 1`` prints the shortest run that still fails.
"""

from __future__ import annotations

import argparse
import faulthandler
import os
import random
import sys
import tempfile
import time
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtWidgets import QApplication

from fresh import drag_each, soak
from hand import BATCH, KEYS, TYPED, WORDS, Event, Failure, Hand
from volumen.app.window.window import Window
from volumen.demo import DEMOS
from volumen.formats import native
from volumen.processes import get_ready
from volumen.render.worker.client import RenderClient

SIZE = (860, 600)  # of the window: a smaller picture is drawn sooner, so more is done in the same time


def events(seed: int, count: int) -> Iterator[Event]:
    """A seeded run."""
    r = random.Random(seed)
    share = r.random

    def place() -> tuple[float, float]:
        return round(share() * 1.1 - 0.05, 3), round(share() * 1.1 - 0.05, 3)

    def held() -> str:
        return r.choice(("", "", "", "", "shift", "ctrl", "alt"))

    kinds: list[tuple[int, Callable[[], Event]]] = [
        (14, lambda: ("drag", *place(), *place(), held(), r.randint(1, 5))),
        (8, lambda: ("click", *place(), held())),
        (2, lambda: ("double", *place(), held())),
        (2, lambda: ("half drag", *place(), *place(), r.choice(("Escape", "ctrl Z", "tool", "nothing")))),
        (10, lambda: ("key", r.choice(KEYS), held())),
        (2, lambda: ("type", r.choice(WORDS))),
        (16, lambda: ("command", share())),
        (12, lambda: ("field", share(), r.choice(TYPED))),
        (5, lambda: ("slider", share(), share())),
        (8, lambda: ("button", share())),
        (5, lambda: ("add", share())),
        (8, lambda: ("tool", share())),
        (4, lambda: ("stage", r.randrange(5))),
        (6, lambda: ("pick", share(), held())),
        (2, lambda: ("select all",)),
        (3, lambda: ("undo", r.randint(1, 6))),
        (2, lambda: ("redo", r.randint(1, 6))),
        (1, lambda: ("wall", share(), share())),
        (2, lambda: ("wheel", *place(), r.choice((-120, 120, 960, -960)), held())),
        (
            1,
            lambda: (
                "paste",
                r.choice(("<svg xmlns='http://www.w3.org/2000/svg'><circle r='9'/></svg>", "words", "<svg")),
            ),
        ),
        (1, lambda: ("save", r.randrange(3))),
        (1, lambda: ("export", r.choice(("png", "svg", "pdf", "tif", "jpg", "webp")))),
        (1, lambda: ("proof", *place(), r.choice((-600, 240, 1200)))),
        (2, lambda: ("rest", r.randint(1, 3))),
    ]
    weights = [w for w, _ in kinds]
    for _ in range(count):
        yield r.choices(kinds, weights)[0][1]()


def play(
    window: Window,
    demo: str,
    run: list[Event],
    folder: Path,
    say: Callable[[str], None] | None = None,
    batch: int = BATCH,
    anew: int = 0,
) -> int:
    """Play a run on a demo, with checks after each batch. Raises Failure, with the number of events as second argument.

    With ``anew`` the demo is opened anew after so many events, in the same window and before the same worker: hands
    that go on for ten thousand make artwork nobody would, on which each event takes seconds.
    Returns how many checks were made.
    """
    hand = Hand(window, folder)
    hook = sys.excepthook
    checks, k = 0, 0
    try:
        window.session.open(DEMOS[demo][1](), None, demo)
        window.canvas.fit()
        for k, event in enumerate(run, 1):
            hand.do(event)
            if k % batch == 0 or k == len(run):
                hand.settle()
                hand.check()
                checks += 1
                if say is not None and checks % 10 == 0:
                    say(f"{demo}: {k} events, {checks} checks")
            if anew and k % anew == 0:
                hand.checks = 0  # all steps are undone again at the next check
                window.session.open(DEMOS[demo][1](), None, demo)
        return checks
    except Failure as failure:
        left = folder / f"failed-{demo}.volumen"
        native.save(window.session.history.committed, left)
        raise Failure(f"the artwork is kept in {left}\n{failure}", k) from None
    finally:
        hand._guard.stop()
        sys.excepthook = hook
        window.canvas.drop()
        window.session.history.mark_saved()


def main() -> int:
    faulthandler.enable()
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--demo", default="", help="one of the demos; all without it")
    parser.add_argument("--events", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--batch", type=int, default=BATCH, help="events between two checks")
    parser.add_argument("--anew", type=int, default=0, help="events after which the demo is opened anew; 0: never")
    parser.add_argument("--no-shrink", action="store_true")
    parser.add_argument("--drags", type=int, default=0, help="instead: drag so many objects of each demo")
    parser.add_argument(
        "--soak", type=int, default=0, help="instead: so many edits, and the worker's memory after them"
    )
    options = parser.parse_args()
    for demo in [options.demo] if options.demo else list(DEMOS):
        if options.drags:
            wrong = drag_each(demo, options.drags)
            print(f"{demo}: {len(wrong)} pictures at rest differ from fresh ones", *wrong, sep="\n    ", flush=True)
        if options.soak:
            used, fresh = soak(demo, options.soak)
            print(f"{demo}: worker {used:.0f} MB after {options.soak} edits, a fresh one {fresh:.0f} MB", flush=True)
    if options.drags or options.soak:
        return 0
    folder = Path(tempfile.mkdtemp(prefix="volumen-monkey-"))
    os.environ["VOLUMEN_STATE"] = str(folder / "state")
    from volumen.app import theme

    app = QApplication.instance() or QApplication(sys.argv[:1])
    theme.dress(app)  # type: ignore[arg-type]
    get_ready()

    def fresh(demo: str, run: list[Event], say: Callable[[str], None] | None = None) -> Failure | None:
        window = Window(RenderClient())
        window.resize(*SIZE)
        window.show()
        try:
            play(window, demo, run, folder, say, options.batch, options.anew)
        except Failure as failure:
            return failure
        except Exception:  # in the hand itself: the window's own hook would keep it for the next start
            return Failure(traceback.format_exc(), 0)
        finally:
            window.session.history.mark_saved()
            window.close()
            window.deleteLater()
            QApplication.processEvents()
        return None

    bad = 0
    for demo in [options.demo] if options.demo else list(DEMOS):
        start = time.monotonic()
        run = list(events(options.seed, options.events))
        failure = fresh(demo, run, lambda text: print(text, flush=True))
        if failure is None:
            print(f"{demo}: {len(run)} events, no failure, {time.monotonic() - start:.0f} s", flush=True)
            continue
        bad += 1
        print(f"{demo}: after {failure.args[1]} events:\n{failure.args[0]}", flush=True)
        if not options.no_shrink:
            print("shortest run:", shrunk(demo, run[: failure.args[1]], failure.args[0], fresh), flush=True)
    return 1 if bad else 0


def shrunk(demo: str, run: list[Event], what: str, fresh: Callable[..., Failure | None]) -> list[Event]:
    """The shortest part of a run that fails in the same way: halves, quarters and so on are left out while it does."""
    last = what.strip().splitlines()[-1][:60]
    size = len(run) // 2
    while size >= 1:
        k = 0
        while k < len(run):
            shorter = run[:k] + run[k + size :]
            failure = fresh(demo, shorter)
            if failure is not None and failure.args[0].strip().splitlines()[-1][:60] == last:
                run = shorter[: failure.args[1]]
            else:
                k += size
        size //= 2
    return run


if __name__ == "__main__":
    sys.exit(main())
