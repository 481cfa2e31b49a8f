"""Every option of every command: what is no number that can be used is wrong usage, and never a traceback."""

from __future__ import annotations

import click
import numpy as np
import pytest
import tifffile
from click.testing import CliRunner

from scenes import disc, document, lit_trio, solid
from volumen.cli import main
from volumen.formats import native
from volumen.formats.bitmaps import _told_apart
from volumen.formats.export import IN_INKS, SUFFIXES

ARGUMENTS = {
    "render": ["FILE", "-o", "OUT.png"], "light": ["FILE", "OUT.volumen"], "press": ["FILE", "OUT.png"], "cut": ["FILE", "OUT.svg"],
    "underbase": ["FILE", "OUT.png"], "scan": ["FILE", "OUT.jpg"], "stock": ["FILE", "OUT.png"], "convert": ["FILE", "OUT.svg"],
}  # fmt: skip
NONSENSE = ("nan", "inf", "-inf", "1e999", "abc", "", "0x10")
NUMBERS = [
    (name, option.opts[0])
    for name, command in main.commands.items()
    for option in command.params
    if isinstance(option, click.Option) and isinstance(option.type, click.ParamType)
    and (option.type.name in ("lamp", "float", "integer", "float range", "integer range"))
]  # fmt: skip


@pytest.fixture
def file(tmp_path):
    native.save(lit_trio(), tmp_path / "trio.volumen")
    return tmp_path / "trio.volumen"


def run(file, command, *args):
    place = [a.replace("FILE", str(file)).replace("OUT", str(file.parent / "out")) for a in args]
    return CliRunner().invoke(main, [command, *place])


@pytest.mark.parametrize(("command", "option"), NUMBERS)
def test_nonsense_is_wrong_usage(file, command, option):
    for value in NONSENSE:
        done = run(file, command, *ARGUMENTS[command], f"{option}={value}")
        assert done.exit_code == 2, (value, done.output)
        assert done.exception is None or isinstance(done.exception, SystemExit)
    assert not list(file.parent.glob("out*"))


def test_the_table_has_all_numbers():
    assert len(NUMBERS) >= 15 and {c for c, _ in NUMBERS} <= set(ARGUMENTS)


@pytest.mark.parametrize("option", ["--scale", "--width", "--dpi"])
def test_a_size_of_nothing_is_wrong_usage(file, option):
    for value in ("0", "-1"):
        assert run(file, "render", *ARGUMENTS["render"], option, value).exit_code == 2


@pytest.mark.parametrize("command", ["press", "cut", "underbase", "scan", "stock", "convert"])
def test_suffix_and_format_agree_or_it_is_wrong_usage(file, command):
    for suffix in ("txt", "webp", ""):
        done = run(file, command, "FILE", f"OUT.{suffix}" if suffix else "OUT")
        assert done.exit_code == 2 and "must end in" in done.output
    assert run(file, command, "FILE").exit_code == 2, "a missing target"


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_a_press_takes_formats_that_have_inks(file, suffix):
    out = f"OUT{suffix}"
    done = run(file, "render", "FILE", "-o", out, "--press", "coated", "--dpi", "40")
    assert done.exit_code == (0 if suffix in IN_INKS else 2), done.output
    wrong = run(file, "render", "FILE", "-o", out, "--press", "/no/such.icc")
    assert wrong.exit_code == (1 if suffix in IN_INKS else 2)
    assert "Traceback" not in wrong.output and (wrong.exit_code == 2 or "such.icc" in wrong.output)


def test_marks_are_in_all_inks_alike(tmp_path):
    native.save(document(disc(1, 100, 100, 40, solid("#c8402a"))), tmp_path / "d.volumen")
    done = run(tmp_path / "d.volumen", "render", "FILE", "-o", "OUT.tif", "--press", "coated", "--marks", "--dpi", "96")
    assert done.exit_code == 0, done.output
    inks = tifffile.imread(tmp_path / "out.tif")
    solid_in_one = (inks[:20] > 250).any(axis=-1)  # in the margin there is nothing but marks
    assert solid_in_one.any()
    assert (inks[:20][solid_in_one] == 255).all()
    assert np.array_equal(solid_in_one, (inks[:20] > 0).any(axis=-1))


def test_names_of_inks_are_whole_and_never_collide():
    assert _told_apart(["Möwe", "Möwé", "Cyan", "Möwe", "a\0b", ""]) == [
        "Möwe",
        "Möwé",
        "Cyan 2",
        "Möwe 2",
        "a b",
        "ink",
    ]
