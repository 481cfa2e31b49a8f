"""The command line. Qt is loaded only to open the window."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import click
import msgspec

from volumen.cli_devices import add_devices
from volumen.cli_values import LAMP, Finite, LampPlace, Target

if TYPE_CHECKING:
    from volumen.formats.options import ExportOptions
    from volumen.model.nodes import Document

_SIZE = Finite(0, 1e5, min_open=True)
_SVG_OR_OWN = Target(".svg", ".volumen")
_DEVICES = ("press", "cut", "underbase", "scan", "stock")
_COMMANDS = ("demo", "render", "outputs", "convert", "light", "check", "bench", *_DEVICES, "--help", "--version")


class _WindowByDefault(click.Group):
    """``volumen`` and ``volumen FILE`` open the window; everything else is a command."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        if not args or args[0] not in _COMMANDS:
            if args and args[0].startswith("-"):
                return super().parse_args(ctx, args)
            args = ["open", *args]
        return super().parse_args(ctx, args)


def fail(message: str) -> NoReturn:
    """Exit code 1 with a plain message."""
    click.echo(f"volumen: {message}", err=True)
    sys.exit(1)


def _load(name: str) -> Document:
    from volumen.formats.files import FileProblem
    from volumen.opening import open_file

    if name.startswith("demo:"):
        _known_demo(name[5:])
    try:
        document, notes = open_file(name)
    except FileProblem as problem:
        fail(str(problem))
        raise
    for note in notes:
        what = f"not kept from {name}: {note}" if name.lower().endswith(".svg") else f"{name}: {note}"
        click.echo(f"volumen: {what}", err=True)
    return document


def _stem(file: str) -> str:
    """What an output of a file or demo is called after."""
    return file[5:] if file.startswith("demo:") else Path(file).stem


def _known_demo(name: str) -> str:
    from volumen.demo import DEMOS

    if name not in DEMOS:
        raise click.UsageError(f"there is no demo '{name}'; choose one of {', '.join(DEMOS)}")
    return name


@click.group(cls=_WindowByDefault, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="volumen")
def main() -> None:
    """Volume, light and material for vector artwork.

    volumen [FILE] opens the window.
    """


@main.command("open", hidden=True)
@click.argument("file", required=False)
def open_window(file: str | None) -> None:
    """Open the window."""
    _run(file)


def _run(file: str | None) -> None:
    if file is not None and not file.startswith("demo:") and not Path(file).exists():
        fail(f"cannot open '{file}': there is no such file")
    from volumen.app.window.start import run

    sys.exit(run(file))


@main.command()
@click.argument("source")
@click.argument("target", type=_SVG_OR_OWN)
def convert(source: str, target: Path) -> None:
    """Turn an SVG into .volumen, or .volumen into SVG."""
    from volumen import library
    from volumen.formats.files import FileProblem

    document = _load(source)
    try:
        if target.suffix.lower() == ".svg":
            library.render_file(document, target, title=target.stem)
        else:
            library.save(document, target)
    except FileProblem as problem:
        fail(str(problem))


@main.command()
@click.argument("source")
@click.argument("target", type=click.Path(dir_okay=False, path_type=Path))
@click.option("--style", default="enamel", help="cut paper, enamel, soft clay, brass and steel, glass, wax, …")
@click.option("--depth", default=1.0, type=Finite(0, 2), help="0 flat, 1 normal, 2 strong.")
@click.option("--softness", default=0.4, type=Finite(0, 1), help="0 sharp, 1 soft.")
def light(source: str, target: Path, style: str, depth: float, softness: float) -> None:
    """Give a flat drawing its first light; the output may be .volumen or any export."""
    from volumen import library
    from volumen.edit.first_light.light import first_light
    from volumen.edit.first_light.styles import STYLES
    from volumen.formats.files import FileProblem

    if style not in (names := [s.name for s in STYLES]):
        raise click.UsageError(f"there is no style '{style}'; choose one of {', '.join(names)}")
    document = first_light(_load(source), (), style, depth, softness)
    try:
        if target.suffix.lower() == ".volumen":
            library.save(document, target)
        else:
            library.render_file(document, target, title=target.stem)
    except FileProblem as problem:
        fail(str(problem))


@main.command()
@click.argument("name", required=False)
@click.option("--list", "list_all", is_flag=True, help="List the demos.")
def demo(name: str | None, list_all: bool) -> None:
    """Open a demo (default: the first)."""
    from volumen.demo import DEMOS

    if list_all:
        for key, (title, _) in DEMOS.items():
            click.echo(f"{key:12} {title}")
        return
    _run(f"demo:{_known_demo(name or next(iter(DEMOS)))}")


@main.command()
@click.argument("files", nargs=-1, required=True, metavar="FILE...")
@click.option("-o", "--out", required=True, metavar="OUT", help="Format by suffix; may hold {name}.")
@click.option("--scale", type=_SIZE, help="Pixels per user unit.")
@click.option("--width", type=click.IntRange(1, 1_000_000), help="Width of a bitmap in pixels.")
@click.option("--dpi", type=_SIZE, help="Resolution; in PDF, of what becomes pixels.")
@click.option("--lamp", type=LAMP, metavar="BEARING,HEIGHT", help="Render under another lamp.")
@click.option("--flat", is_flag=True, help="Leave light and finish out.")
@click.option("--ground", default="sheet", metavar="none|#RRGGBB", help="Replace the sheet's colour.")
@click.option("--pure-vector", is_flag=True, help="In SVG and PDF, soft light as stepped shapes.")
@click.option("--bleed", is_flag=True, help="With the artwork beyond the edges, as far as the sheet's bleed.")
@click.option("--marks", is_flag=True, help="With marks where to cut.")
@click.option("--depth", type=click.Choice(["8", "16"]), default="8", help="Bits of a channel in PNG and TIFF.")
@click.option("--quality", type=click.IntRange(1, 100), help="Of JPEG and WebP; without it hardly anything is lost.")
@click.option("--press", metavar="coated|uncoated|PROFILE", help="TIFF in the inks of a press.")
@click.option("--text", is_flag=True, help="In PDF, words stay text, with their letters embedded.")
@click.option("--json", "as_json", is_flag=True, help="Report as JSON.")
def render(
    files: tuple[str, ...], out: str, scale: float | None, width: int | None, dpi: float | None,
    lamp: LampPlace | None, flat: bool, ground: str, pure_vector: bool, bleed: bool, marks: bool, depth: str,
    quality: int | None, press: str | None, text: bool, as_json: bool,
) -> None:  # fmt: skip
    """Render files (or demo:NAME) to .png .svg .pdf .tif .jpg .webp."""
    from volumen.colour.press_settings import Press
    from volumen.formats.export import IN_INKS, export
    from volumen.formats.files import FileProblem

    if sum(v is not None for v in (scale, width)) > 1 or ((scale or width) and dpi and not out.endswith(".pdf")):
        raise click.UsageError("give only one of --scale, --width and --dpi")
    if len(files) > 1 and "{name}" not in out:
        raise click.UsageError("with several files OUT must hold {name}")
    if press is not None and Path(out).suffix.lower() not in IN_INKS:
        raise click.UsageError(f"--press needs a format that has inks: OUT must end in {' or '.join(IN_INKS)}")
    done = []
    for file in files:
        document = _load(file)
        name = _stem(file)
        target = Path(out.replace("{name}", name))
        options = _options(document, scale, width, dpi, lamp, flat, ground, name)
        options = msgspec.structs.replace(
            options, pure_vector=pure_vector, bleed=bleed, marks=marks, depth=int(depth), quality=quality,
            press=Press(press) if press else None, text=text,
        )  # fmt: skip
        try:
            close = export(document, target, options)
        except FileProblem as problem:
            fail(str(problem))
        row: dict[str, object] = {"file": file, "out": str(target), "bytes": target.stat().st_size}
        if close is not None:
            row["vector_form"] = {"mean": close.mean, "p99": close.p99, "worst": close.worst}
        done.append(row)
        if not as_json:
            click.echo(f"{target}  {target.stat().st_size:,} bytes")
            if close is not None:
                click.echo(f"  its vector form differs by {close}")
    if as_json:
        click.echo(msgspec.json.encode(done).decode())


@main.command()
@click.argument("file")
@click.argument("folder", type=click.Path(file_okay=False, path_type=Path))
@click.option("--only", multiple=True, metavar="NAME", help="Only the kept output of this name; may be repeated.")
@click.option("--press", metavar="coated|uncoated|PROFILE", help="Instead of the press of the document.")
def outputs(file: str, folder: Path, only: tuple[str, ...], press: str | None) -> None:
    """Write the outputs kept in a document into FOLDER, all or none."""
    from volumen.colour.press_settings import Press
    from volumen.formats.files import FileProblem
    from volumen.formats.outputs import tasks_for, write_all

    document = _load(file)
    if unknown := set(only) - {o.name for o in document.outputs}:
        raise click.UsageError(f"no output is kept under the name {', '.join(sorted(unknown))}")
    wanted = [o for o in document.outputs if not only or o.name in only]
    if not wanted:
        fail(f"'{file}' keeps no outputs: keep some in the Proof stage")
    stem = _stem(file)
    try:
        tasks = tasks_for(document, wanted, (), folder, stem, Press(press) if press else document.press)
        write_all(document, tasks, lambda _: None)
    except FileProblem as problem:
        fail(str(problem))
    for task in tasks:
        click.echo(f"{task.path}  {task.path.stat().st_size:,} bytes")


def _options(
    document: Document, scale: float | None, width: int | None, dpi: float | None,
    lamp: LampPlace | None, flat: bool, ground: str, name: str,
) -> ExportOptions:  # fmt: skip
    from volumen.colour.srgb import from_hex
    from volumen.formats.options import ExportOptions
    from volumen.shading.paint import Colour

    factor = scale or 1.0
    if width is not None:
        factor = width / document.sheet.width
    elif dpi is not None and scale is None:
        factor = dpi / 96
    chosen: str | Colour = ground
    if ground not in ("none", "sheet"):
        try:
            chosen = Colour(*from_hex(ground))
        except ValueError as error:
            raise click.UsageError(str(error)) from error
    new_lamp = None
    if lamp is not None:
        new_lamp = msgspec.structs.replace(document.lamp, bearing=lamp.bearing, height=lamp.height)
    return ExportOptions(factor, dpi, flat, chosen, new_lamp, name)


@main.command()
@click.argument("file")
@click.option("--press", metavar="coated|uncoated|PROFILE", help="What would go wrong in print, too.")
@click.option("--cutter", is_flag=True, help="What would go wrong at the cutter, too.")
@click.option("--json", "as_json", is_flag=True, help="Report as JSON.")
def check(file: str, press: str | None, cutter: bool, as_json: bool) -> None:
    """What is wrong or will change on export, per object; of a PDF, what makes it unfit for the press."""
    from volumen import library
    from volumen.colour.press import ProfileProblem

    if file.lower().endswith(".pdf"):
        _check_pdf(Path(file), as_json)
        return
    document = _load(file)
    try:
        findings = library.check(document, press, cutter)
    except ProfileProblem as problem:
        fail(str(problem))
    if as_json:
        click.echo(msgspec.json.encode(findings).decode())
        return
    for f in findings:
        click.echo(f"{f.level:8} {f.name} (id {f.node}): {f.message}")
    if not findings:
        click.echo("nothing to report: everything stays vector")


def _check_pdf(path: Path, as_json: bool) -> None:
    from volumen.cli_reading import read_apart
    from volumen.formats.foreign import FileToRead, Findings

    wrong = read_apart(FileToRead("findings", str(path)), Findings, fail).wrong
    if as_json:
        click.echo(msgspec.json.encode(wrong).decode())
        return
    click.echo("\n".join(wrong) if wrong else "nothing to report: it follows the rules of PDF/X-4 that are checked")


@main.command()
@click.option("--json", "as_json", is_flag=True, help="Report as JSON.")
@click.option("--quick", is_flag=True, help="Fewer runs.")
def bench(as_json: bool, quick: bool) -> None:
    """Measure speed as ratios against named baselines."""
    from volumen.bench.run import line_of, measured
    from volumen.caching import figures

    if as_json:
        rows = list(measured(quick))
        click.echo(msgspec.json.encode({"measured": rows, "caches": figures()}).decode())
        return
    for row in measured(quick):
        click.echo(line_of(row))


add_devices(main, _load, fail)

if __name__ == "__main__":
    main()
