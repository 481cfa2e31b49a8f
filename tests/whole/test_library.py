"""The library as its page shows it."""

import re
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

import volumen
from volumen.model.sizes import DocumentError

PAGE = Path(__file__).parents[2] / "docs" / "library.md"


def test_the_example_of_the_page_draws_a_ball_lit_from_the_upper_left(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    exec(re.search(r"```python\n(.*?)```", PAGE.read_text(), re.S).group(1), {})
    pixels = np.asarray(Image.open("ball.png").convert("RGB"), np.float64)
    assert pixels.shape == (800, 800, 3)
    light, shade = pixels[300, 310].sum(), pixels[520, 520].sum()
    assert light > 1.5 * shade
    again = volumen.open("ball.volumen")
    assert [n.name for n in again.root.children] == ["ball"] and again.lamp.bearing == 310


def test_every_name_that_is_offered_is_there_and_told_on_the_page():
    page = PAGE.read_text()
    for name in volumen.__all__:
        assert getattr(volumen, name) is not None
        assert name in page or name == "__version__" or name in ("Fill", "Line"), name
    with pytest.raises(AttributeError, match="no attribute 'nothing'"):
        _ = volumen.nothing


def test_importing_it_loads_neither_the_window_nor_the_renderer():
    code = "import sys, volumen; print([m for m in sys.modules if m.startswith(('PySide6', 'skia', 'volumen.'))])"
    assert (
        subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.strip() == "[]"
    )


def test_what_is_too_much_is_said():
    sheet = volumen.new(100, 100, ground=None)
    deep = volumen.ellipse(0, 0, 10, 10)
    for _ in range(120):
        deep = volumen.group(deep)
    with pytest.raises(DocumentError, match="nested"):
        volumen.add(sheet, deep)
    with pytest.raises(ValueError, match="between 0 and 90"):
        volumen.light(sheet, height=120)
    assert volumen.render_pixels(sheet)[..., 3].max() == 0


def test_a_plain_script_without_a_guard_opens_an_svg(tmp_path):
    """Reading starts a process of its own, which must not run the script once more."""
    (tmp_path / "a.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="5" height="5"/></svg>'
    )
    script = tmp_path / "plain.py"
    script.write_text("import volumen\nprint('run')\nprint(len(volumen.open('a.svg').root.children))\n")
    done = subprocess.run([sys.executable, script], cwd=tmp_path, capture_output=True, text=True, timeout=120)
    assert done.stdout.split() == ["run", "1"] and "Error" not in done.stderr, done.stderr
