"""Files from elsewhere are read apart, and what took minutes is refused or read in another way."""

import random

import pytest
import shapely
from PySide6.QtCore import QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QProgressDialog, QPushButton

from gestures import LEFT, changed
from volumen.formats import apart
from volumen.formats.apart import Apart
from volumen.formats.files import FileProblem
from volumen.formats.foreign import Artwork, FileToRead
from volumen.formats.svg.read import open_svg
from volumen.geometry.boolean import combine_all, divide
from volumen.geometry.engine import PathOpError
from volumen.geometry.offset import offset
from volumen.geometry.primitives import rectangle
from volumen.geometry.winding import simplified
from volumen.model.make import corner, path_form
from volumen.model.nodes import StarForm
from volumen.outline.forms import source_outline

pytestmark = pytest.mark.slow

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 90">'


def outlines(count):
    return f'{HEAD}<path d="{"M0 0L9 9L0 9z" * count}"/></svg>'


def test_reading_can_be_stopped_and_the_window_lives_meanwhile(window, tmp_path):
    work = changed(window)
    (tmp_path / "large.svg").write_text(outlines(29_000))
    ticks = []
    timer = QTimer(interval=10)
    timer.timeout.connect(lambda: ticks.append(1))
    timer.start()

    def stop():
        shown = [d for d in window.findChildren(QProgressDialog) if d.isVisible()]
        if shown:
            QTest.mouseClick(shown[0].findChild(QPushButton), LEFT)
        elif window.reading.under_way:
            QTimer.singleShot(20, stop)

    QTimer.singleShot(20, stop)
    assert not window.files.load(str(tmp_path / "large.svg"))
    timer.stop()
    assert window.session.document is work and "stopped" in window.session.note
    assert len(ticks) > 5 and not window.reading.under_way
    assert window.files.load("demo:ferry")


def test_a_reader_without_memory_or_time_is_a_refusal(tmp_path, monkeypatch):
    (tmp_path / "large.svg").write_text(outlines(25_000))
    file = FileToRead("svg artwork", str(tmp_path / "large.svg"))
    monkeypatch.setattr(apart, "MOST_SECONDS", 0.05)
    with pytest.raises(FileProblem, match="takes over"):
        Apart().read(file)
    monkeypatch.undo()
    reader = Apart()
    with pytest.raises(FileProblem, match="could not be read"):  # killed as the system does when memory runs out
        reader.read(file, lambda seconds: reader._process.kill() or True)
    (tmp_path / "small.svg").write_text(outlines(2))
    assert isinstance(reader.read(FileToRead("svg artwork", str(tmp_path / "small.svg"))), Artwork), (
        "the next one is read"
    )


BOMBS = {
    "outlines": (outlines(31_000), "30,000 outlines"),
    "rules times elements": (
        f"{HEAD}<style>{''.join(f'.a.b{k}{{fill:red}}' for k in range(4900))}</style>"
        + '<rect class="a" width="9" height="9"/>' * 20_000 + "</svg>",
        "too many style rules",
    ),
    "bytes that are no text": (f"{HEAD}<title>\udcff</title></svg>", "not readable as SVG"),
}  # fmt: skip
STOP, CIRCLE = '<stop offset="1" stop-color="red"/>', '<circle r="9" cx="20"/>'
KEPT = {
    "parentheses": (f'{HEAD}<path d="M0 0h9v9z" style="fill:{"(" * 30_000}"/></svg>', "style attributes|parentheses"),
    "4 MB of style": (f"{HEAD}<style>{'.a{fill:red}' * 340_000}</style><path d='M0 0h9v9z'/></svg>", "style beyond 512 KB"),
    "selectors": (f"{HEAD}<style>{'a,' * 300_000}b{{fill:red}}</style><path d='M0 0h9v9z'/></svg>", ""),
    "stops": (
        HEAD + '<linearGradient id="g">' + STOP * 50_000 + "</linearGradient>"
        + '<rect width="9" height="9" fill="url(#g)"/>' * 500 + "</svg>",
        "gradient stops beyond 256",
    ),
    "a clip of thousands": (
        HEAD + '<clipPath id="c">' + CIRCLE * 3000 + "</clipPath>"
        + '<rect width="900" height="9" clip-path="url(#c)"/></svg>',
        "",
    ),
}  # fmt: skip


@pytest.mark.parametrize("bomb", BOMBS)
def test_drawings_that_would_take_minutes_are_refused_in_words(bomb, tmp_path):
    text, message = BOMBS[bomb]
    (tmp_path / "bomb.svg").write_bytes(text.encode("utf-8", "surrogateescape"))
    with pytest.raises(FileProblem, match=message):
        open_svg(tmp_path / "bomb.svg")


@pytest.mark.parametrize("bomb", KEPT)
def test_drawings_with_too_much_of_something_are_read_without_it(bomb, tmp_path):
    text, note = KEPT[bomb]
    (tmp_path / "bomb.svg").write_text(text)
    document, notes = open_svg(tmp_path / "bomb.svg")
    assert document.root.children
    assert not note or any(n in " ".join(notes) for n in note.split("|"))


def test_geometry_refuses_what_would_take_minutes():
    r = random.Random(1)
    stars = [source_outline(StarForm(500 * r.random(), 500 * r.random(), 300, 300, 9)) for _ in range(40)]
    with pytest.raises(PathOpError, match="areas"):
        divide(stars)
    tangle = source_outline(path_form(*[corner(700 * r.random(), 700 * r.random()) for _ in range(3000)]))
    with pytest.raises(PathOpError, match="cross themselves"):
        offset(tangle, 5.0)


def test_many_areas_are_excluded_at_once_as_they_are_one_after_another():
    """Against an independent clipper: 14 rectangles, of which an odd number holds each point of the result."""
    r = random.Random(3)
    rectangles = [rectangle(100 * r.random(), 100 * r.random(), 60, 40) for _ in range(14)]
    expected = shapely.Polygon()
    for path in rectangles:
        expected = expected.symmetric_difference(shapely.box(*path.bounds()))
    assert simplified(combine_all(rectangles, "exclude")).area() == pytest.approx(expected.area, rel=1e-6)
