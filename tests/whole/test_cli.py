import json
import tempfile

import numba
import pytest
from click.testing import CliRunner
from numba.core import caching
from PIL import Image

from scenes import lit_trio
from volumen.cli import main
from volumen.formats import native
from volumen.geometry import compiled


def run(*args):
    return CliRunner().invoke(main, [str(a) for a in args])


def test_render_writes_every_format_and_names(tmp_path):
    native.save(lit_trio(), tmp_path / "trio.volumen")
    for suffix in ("png", "svg", "pdf"):
        result = run("render", tmp_path / "trio.volumen", "-o", tmp_path / f"{{name}}.{suffix}", "--lamp", "60,30")
        assert result.exit_code == 0, result.output
        assert (tmp_path / f"trio.{suffix}").stat().st_size > 500
    result = run(
        "render", "demo:ferry", "-o", tmp_path / "f.png", "--width", 120, "--ground", "none", "--flat", "--json"
    )
    assert json.loads(result.output)[0]["out"].endswith("f.png")
    with Image.open(tmp_path / "f.png") as image:
        assert image.size == (120, 120)


@pytest.mark.parametrize(
    ("args", "code", "message"),
    [
        (["render", "missing.volumen", "-o", "x.png"], 1, "no such file"),
        (["render", "demo:ferry", "-o", "x.bmp"], 1, "use one of"),
        (["render", "demo:ferry", "-o", "/nowhere/x.png"], 1, "folder does not exist"),
        (["render", "demo:narwhal", "-o", "x.png"], 2, "no demo 'narwhal'"),
        (["render", "demo:ferry", "-o", "x.png", "--lamp", "high"], 2, "two numbers"),
        (["render", "demo:ferry", "-o", "x.png", "--ground", "sea"], 2, "#rrggbb"),
        (["render", "demo:ferry", "-o", "x.png", "--scale", "1", "--width", "9"], 2, "only one"),
        (["render", "demo:ferry", "demo:net-float", "-o", "x.png"], 2, "{name}"),
        (["demo", "narwhal"], 2, "no demo"),
        (["check", "missing.volumen"], 1, "no such file"),
        (["missing.volumen"], 1, "no such file"),
        (["render"], 2, "Missing"),
    ],
)
def test_problems_have_the_right_code_and_no_traceback(args, code, message, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    result = run(*args)
    assert result.exit_code == code, result.output
    assert message in result.output
    assert "Traceback" not in result.output


def test_check_and_demo_list():
    assert "net-float" in run("demo", "--list").output
    findings = json.loads(run("check", "demo:net-float", "--json").output)
    assert {f["level"] for f in findings} == {"export"}
    assert any("soft shadow" in f["message"] for f in findings)


def test_core_and_command_line_never_load_qt():
    import subprocess
    import sys

    code = (
        "import sys\nfrom volumen.cli import main\nfrom click.testing import CliRunner\n"
        "r = CliRunner().invoke(main, ['check', 'demo:ferry'])\nassert r.exit_code == 0\n"
        "sys.exit(any(m.startswith('PySide6') for m in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code]).returncode == 0


def test_without_a_place_for_a_cache_loops_are_kept_in_a_folder_of_ones_own_or_in_memory(tmp_path, monkeypatch, capsys):
    """As a user who may write neither beside the program nor at home; said once."""

    def nowhere(self):
        raise OSError(30, "Read-only file system")

    for kind in (caching.InTreeCacheLocator, caching.UserWideCacheLocator):
        monkeypatch.setattr(kind, "ensure_cache_path", nowhere, raising=False)
    monkeypatch.setattr(numba.config, "CACHE_DIR", "")
    monkeypatch.setattr(compiled, "_told", False)
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    assert compiled.compiled()(lambda x: x + 1)(2) == 3
    (place,) = tmp_path.iterdir()
    assert place.stat().st_mode & 0o777 == 0o700 and any(place.rglob("*.nbi"))
    place.chmod(0o777)  # others could put code there: it is not used
    monkeypatch.setattr(numba.config, "CACHE_DIR", "")
    assert compiled.compiled()(lambda x: x + 2)(2) == 4
    assert capsys.readouterr().err.count("no cache folder can be written") == 1
