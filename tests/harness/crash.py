"""Kills and faults: saves killed at random, a fault at each system call of a save, windows and workers that end.

``python tests/crash.py --saves 500 --faults 1 --windows 20 --workers 20`` prints what held.
"""

from __future__ import annotations

import argparse
import errno
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from volumen.demo import DEMOS
from volumen.formats import native
from volumen.formats.files import FileProblem
from volumen.model.nodes import Document

_ENDLESS = (
    "import sys\nfrom pathlib import Path\nfrom volumen.formats import native\nfrom volumen.demo import DEMOS\n"
    "p = Path(sys.argv[1])\ndocs = [DEMOS[n][1]() for n in ('ferry', 'whale', 'kraken')]\nprint('ready', flush=True)\n"
    "k = 0\nwhile True:\n    native.save(docs[k % 3], p)\n    k += 1\n"
)
_CALLS = ("fsync", "chmod", "replace", "fdopen")  # of ``os``, in a save; mkstemp and writes are done beside them
_ERRORS = (errno.ENOSPC, errno.EIO, errno.EACCES, errno.EROFS, errno.EINTR, errno.EDQUOT)


def kill_saves(times: int, seed: int = 1) -> int:
    """Kill a process at a random moment of an endless row of saves; how many files were whole. Raises AssertionError."""
    r = random.Random(seed)
    known = [DEMOS[n][1]() for n in ("ferry", "whale", "kraken")]
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "artwork.volumen"
        native.save(known[0], path)
        done = 0
        while done < times:
            process = subprocess.Popen([sys.executable, "-c", _ENDLESS, str(path)], stdout=subprocess.PIPE)
            assert process.stdout is not None
            process.stdout.readline()
            for _ in range(min(40, times - done)):  # stopped and gone on with, the file is looked at in between
                time.sleep(r.random() * 0.02)
                process.send_signal(signal.SIGSTOP)
                assert native.load(path) in known, "a damaged file"
                process.send_signal(signal.SIGCONT)
                done += 1
            time.sleep(r.random() * 0.02)
            process.kill()
            process.wait()
            process.stdout.close()
            assert native.load(path) in known, "a damaged file"
        native.save(known[0], path)
        left = [p.name for p in Path(place).iterdir()]
        assert left == ["artwork.volumen"], f"left over: {left}"
    return done


@contextmanager
def failing(name: str, nth: int, error: int) -> Iterator[list[int]]:
    """The nth call of a function of ``os`` fails; the list counts them."""
    true: Callable = getattr(os, name)
    calls = [0]

    def call(*args: object, **more: object) -> object:
        calls[0] += 1
        if calls[0] == nth:
            raise OSError(error, os.strerror(error))
        return true(*args, **more)

    setattr(os, name, call)
    try:
        yield calls
    finally:
        setattr(os, name, true)


class _Full:
    """A file on a disk that is full after some bytes."""

    def __init__(self, file: object, room: int) -> None:
        self._file, self._room = file, room

    def write(self, data: bytes) -> int:
        self._room -= len(data)
        if self._room < 0:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
        return self._file.write(data)  # type: ignore[attr-defined,no-any-return]

    def __getattr__(self, name: str) -> object:
        return getattr(self._file, name)


def inject_faults(document: Document) -> int:
    """Each system call of a save fails once, with each error, and the disk is full after each of many sizes: the old
    file stays whole, the new one is whole or not there, and it is said in words. How many were injected."""
    old = DEMOS["net-float"][1]()
    count = 0
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "artwork.volumen"

        words: list[str] = []

        def attempt() -> None:
            try:
                native.save(document, path)
            except FileProblem as problem:
                words.append(str(problem))
            assert native.load(path) in (old, document), "a damaged file"
            assert [p.name for p in Path(place).iterdir()] == ["artwork.volumen"], "something is left over"

        for name in _CALLS:
            for error in _ERRORS:
                for nth in (1, 2):
                    native.save(old, path)
                    with failing(name, nth, error):
                        attempt()
                    count += 1
        size = path.stat().st_size
        true = os.fdopen
        for room in (0, 1, 30, 100, *range(200, size, max(size // 60, 1))):
            native.save(old, path)
            os.fdopen = lambda *a, room=room, **k: _Open(true(*a, **k), room)  # type: ignore[assignment]
            try:
                attempt()
            finally:
                os.fdopen = true
            count += 1
        assert words and all(str(path) in w for w in words), "not said in words"
    return count


class _Open:
    """What ``os.fdopen`` gives, with a full disk behind it."""

    def __init__(self, file: object, room: int) -> None:
        self._file, self._full = file, _Full(file, room)

    def __enter__(self) -> _Full:
        self._file.__enter__()  # type: ignore[attr-defined]
        return self._full

    def __exit__(self, *error: object) -> None:
        self._file.__exit__(*error)  # type: ignore[attr-defined]


_WINDOW = """
import os, random, sys
sys.path.insert(0, sys.argv[3])
os.environ['VOLUMEN_STATE'] = sys.argv[1]
from pathlib import Path
from PySide6.QtWidgets import QApplication
from volumen.app import theme
from volumen.app.window.window import Window
from volumen.render.worker.client import RenderClient
import monkey
from hand import Failure, Hand
from volumen.formats import native

if __name__ == '__main__':
    app = QApplication([])
    theme.dress(app)
    window = Window(RenderClient())
    window.show()
    one = Hand(window, Path(sys.argv[1]))
    from volumen.demo import DEMOS
    window.session.open(DEMOS['net-float'][1](), None, 'net-float')
    window.autosave.timer.setInterval(120)
    print('ready', flush=True)
    for event in monkey.events(int(sys.argv[2]), 100000):
        if event[0] in ('save', 'export', 'command', 'paste'):
            continue
        try:
            one.do(event)
        except Failure:
            one.faults.clear()
"""


def kill_windows(times: int, seed: int = 1) -> tuple[int, int]:
    """Kill a window in mid-edit, then look at what the next start would offer: windows killed, documents offered. Every
    recovery file must open; one that was written is offered once."""
    r = random.Random(seed)
    offered = 0
    for k in range(times):
        with tempfile.TemporaryDirectory() as place:
            script = Path(place) / "window.py"
            script.write_text(_WINDOW)
            here = str(Path(__file__).parent)
            command = [sys.executable, str(script), place, str(seed * 1000 + k), here]
            process = subprocess.Popen(
                command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, start_new_session=True
            )
            assert process.stdout is not None
            assert process.stdout.readline() == b"ready\n"
            end = time.monotonic() + 30
            while not list(Path(place).glob("recovery/*.volumen")) and time.monotonic() < end:
                time.sleep(0.005)
            if k:  # the first is killed as soon as it has written, the others at any moment after
                time.sleep(1.5 * r.random())
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()
            process.stdout.close()
            offered += _look_at(place)
    return times, offered


def _look_at(place: str) -> int:
    from volumen.app.engine import recovery

    before, os.environ["VOLUMEN_STATE"] = os.environ.get("VOLUMEN_STATE"), place
    try:
        found = recovery.left_behind()
        for one in found:
            document, notes = native.read(one.file)
            assert not notes and document.root is not None
        written = list((Path(place) / "recovery").glob("*.volumen"))
        assert len(found) == len(written), "what was written is not offered"
        return len(found)
    finally:
        os.environ.pop("VOLUMEN_STATE") if before is None else os.environ.__setitem__("VOLUMEN_STATE", before)


def end_workers(times: int, seed: int = 1) -> int:
    """Kill or stop the worker in drags, walls and exports: the picture comes to rest and equals a fresh one."""
    from PySide6.QtWidgets import QApplication

    from hand import Hand
    from volumen.app import theme
    from volumen.app.window.window import Window
    from volumen.render.worker.client import RenderClient

    r = random.Random(seed)
    app = QApplication.instance() or QApplication(sys.argv[:1])
    theme.dress(app)  # type: ignore[arg-type]
    with tempfile.TemporaryDirectory() as place:
        os.environ.setdefault("VOLUMEN_STATE", place)
        window = Window(RenderClient())
        window.show()
        window.link.watch.patience = 0.08
        one = Hand(window, Path(place))
        window.session.open(DEMOS["net-float"][1](), None, "net-float")
        one.settle()
        for k in range(times):
            doing = ("drag", "wall", "export")[k % 3]
            how = signal.SIGKILL if r.random() < 0.5 else signal.SIGSTOP
            if doing == "wall":
                window.session.select((window.session.document.root.children[0].id,))
                one.do(("wall", r.random(), 0.2))
            elif doing == "export":
                one.do(("export", "png"))
            os.kill(window.link.client.process.pid, how)
            one.do(("drag", r.random(), r.random(), r.random(), r.random(), "", 4))
            window.choosing.hide()
            one.settle()
            one.check()
        window.session.history.mark_saved()
        window.close()
        one._guard.stop()
    return times


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    for name, usual in (("saves", 500), ("faults", 1), ("windows", 30), ("workers", 40)):
        parser.add_argument(f"--{name}", type=int, default=usual)
    o = parser.parse_args()
    start = time.monotonic()
    print(f"{kill_saves(o.saves)} saves stopped or killed: no damaged file, nothing left over", flush=True)
    if o.faults:
        faults = sum(inject_faults(DEMOS[n][1]()) for n in ("ferry", "mussel"))
        print(f"{faults} faults injected into saves: no damaged file, nothing left over", flush=True)
    killed, offered = kill_windows(o.windows)
    print(f"{killed} windows killed in mid-edit: {offered} documents offered, all of them open", flush=True)
    print(f"{end_workers(o.workers)} workers killed or stopped: the picture came back like a fresh one", flush=True)
    print(f"{time.monotonic() - start:.0f} s")
    return 0


if __name__ == "__main__":
    sys.exit(main())
