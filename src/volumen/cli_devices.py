"""Commands of the simulated devices, and of stock."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

import click
import msgspec

from volumen.cli_values import Finite, Target
from volumen.model.nodes import Document

if TYPE_CHECKING:
    from volumen.stock.stocks import Stock

Load = Callable[[str], Document]
Fail = Callable[[str], NoReturn]
_PICTURE = Target(".png")


def add_devices(main: click.Group, load: Load, fail: Fail) -> None:
    """Add the commands to the command line."""
    _add_press(main, fail)
    _add_cutter(main, load, fail)
    _add_garment(main, load, fail)
    _add_scanner(main, fail)
    _add_stock(main, load, fail)


def _add_press(main: click.Group, fail: Fail) -> None:
    @main.command("press")
    @click.argument("source", type=click.Path(exists=True, dir_okay=False, path_type=Path))
    @click.argument("target", type=_PICTURE)
    @click.option("--profile", default="coated", metavar="coated|uncoated|PROFILE", help="The paper.")
    @click.option("--gain", default=0.04, type=Finite(0, 0.4), help="Dot gain beyond the profile's own.")
    @click.option("--astray", default=0.1, type=Finite(0, 5), help="How far plates miss one another, mm.")
    @click.option("--dpi", default=150.0, type=Finite(36, 1200), help="At which a PDF is printed.")
    def press(source: Path, target: Path, profile: str, gain: float, astray: float, dpi: float) -> None:
        """Print a TIFF in inks, or a PDF, on a simulated press: a picture (.png) of the sheet."""
        from volumen.cli_reading import read_apart
        from volumen.formats.foreign import FileToRead, PrintedSheet

        options: dict[str, float | str] = {"profile": profile, "gain": gain, "astray": astray, "dpi": dpi}
        sheet = read_apart(FileToRead("printed", str(source), options=options), PrintedSheet, fail)
        _write(target, sheet.png, fail)
        click.echo(f"{target}  {sheet.width} x {sheet.height} pixels")


def _add_cutter(main: click.Group, load: Load, fail: Fail) -> None:
    @main.command("cut")
    @click.argument("file")
    @click.argument("target", type=Target(".svg"))
    @click.option("--gap", default=2.0, type=Finite(0, 100), help="From the artwork to the line, mm.")
    @click.option("--radius", default=1.5, type=Finite(0, 50), help="The tightest turn of the blade, mm.")
    @click.option("--json", "as_json", is_flag=True, help="Report as JSON.")
    def cut(file: str, target: Path, gap: float, radius: float, as_json: bool) -> None:
        """The line that a simulated cutter follows round the artwork, as SVG in the order of cutting."""
        from volumen.devices.cover import DeviceProblem
        from volumen.devices.cutter import Cutter, die_line, plan
        from volumen.formats.cut_svg import cut_svg
        from volumen.formats.files import FileProblem, write_bytes

        cutter, document = Cutter(gap, radius), load(file)
        try:
            made = plan(die_line(document, cutter), cutter)
            write_bytes(target, cut_svg(made, document.sheet))
        except (DeviceProblem, FileProblem) as problem:
            fail(str(problem))
            return
        report = {
            "lines": len(made.lines), "cut_mm": round(made.cut_mm, 1), "travel_mm": round(made.travel_mm, 1),
            "seconds": round(made.seconds, 1),
            "tight": [
                {"x": round(t.at[0], 2), "y": round(t.at[1], 2), "radius_mm": round(t.radius, 2)} for t in made.tight
            ],
        }  # fmt: skip
        if as_json:
            click.echo(msgspec.json.encode(report).decode())
        else:
            tight = f"; {len(made.tight)} places are tighter than the blade" if made.tight else ""
            click.echo(
                f"{target}  {made.cut_mm:.0f} mm to cut, {made.travel_mm:.0f} mm between, {made.seconds:.0f} s{tight}"
            )


def _add_garment(main: click.Group, load: Load, fail: Fail) -> None:
    @main.command("underbase")
    @click.argument("file")
    @click.argument("target", type=_PICTURE)
    @click.option("--choke", default=0.3, type=Finite(0, 20), help="How far white stays within the ink, mm.")
    @click.option("--finest", default=0.3, type=Finite(0, 20), help="The thinnest white that holds, mm.")
    @click.option("--cloth", default="#1f3a57", metavar="#RRGGBB", help="What it is shown on.")
    @click.option("--width", default=1200, type=click.IntRange(16, 12000), help="Pixels.")
    def garment(file: str, target: Path, choke: float, finest: float, cloth: str, width: int) -> None:
        """The white that a simulated garment printer lays under the ink, as a picture (.png)."""
        from volumen.colour.srgb import from_hex
        from volumen.devices.cover import DeviceProblem
        from volumen.devices.garment import GarmentPrinter
        from volumen.devices.views import DeviceView
        from volumen.render.device_pictures import device_picture

        try:
            view = DeviceView("underbase", printer=GarmentPrinter(choke, finest), cloth=from_hex(cloth))
            made = device_picture(load(file), view, width)
        except (DeviceProblem, ValueError) as problem:
            fail(str(problem))
            return
        _write_picture(target, made.pixels, fail)
        f = made.figures
        click.echo(f"  ink {f['ink']:.0f} mm2, white {f['white']:.0f} mm2, too thin for white {f['bare']:.1f} mm2")


def _add_scanner(main: click.Group, fail: Fail) -> None:
    @main.command("scan")
    @click.argument("source", type=click.Path(exists=True, dir_okay=False, path_type=Path))
    @click.argument("target", type=Target(".jpg", ".jpeg"))
    @click.option("--skew", default=1.4, type=Finite(-20, 20), help="Degrees.")
    @click.option("--cast", default=0.5, type=Finite(0, 1), help="How strongly its lamp colours.")
    @click.option("--straighten", is_flag=True, help="Take skew and cast out of a scan, by its chart.")
    def scanner(source: Path, target: Path, skew: float, cast: float, straighten: bool) -> None:
        """Lay a picture on a simulated scanner, with a chart; or put such a scan straight."""
        from volumen.cli_reading import read_apart
        from volumen.formats.foreign import FileToRead, Picture

        kind = "straightened scan" if straighten else "scan"
        found = read_apart(FileToRead(kind, str(source), options={"skew": skew, "cast": cast}), Picture, fail)
        _write(target, found.asset.data, fail)
        click.echo(f"{target}  {found.width} x {found.height} pixels")


def _add_stock(main: click.Group, load: Load, fail: Fail) -> None:
    @main.command("stock")
    @click.argument("file", required=False)
    @click.argument("target", required=False, type=_PICTURE)
    @click.option("--on", "name", default="cotton bag", metavar="NAME|FILE.json", help="Which stock.")
    @click.option("--colour", default="", help="One of its colours.")
    @click.option("--ink", type=click.Choice(["underbase", "dye", "print"]), default="underbase", help="On cloth.")
    @click.option("--width", default=1400, type=click.IntRange(64, 1400), help="Pixels.")
    @click.option("--json", "as_json", is_flag=True, help="Report the contrast of every object as JSON.")
    def stock(
        file: str | None, target: Path | None, name: str, colour: str, ink: str, width: int, as_json: bool
    ) -> None:  # fmt: skip
        """A picture (.png) of artwork on stock, and how its objects read there; without a file, lists the stock."""
        from volumen.edit.print_check import READABLE
        from volumen.model.tree import walk
        from volumen.render.stock_pictures import stock_picture
        from volumen.stock.stocks import StockProblem, StockView, shipped_stocks

        if file is not None and target is None:
            raise click.UsageError("say where to: volumen stock FILE OUT.png")
        if file is None or target is None:
            for s in shipped_stocks():
                click.echo(f"{s.name:18} {s.width:g} x {s.height:g} mm  {', '.join(s.colours)}")
            return
        document = load(file)
        try:
            found = next((s for s in shipped_stocks() if s.name == name), None) or _own_stock(name, fail)
            if colour and colour not in found.colours:
                raise StockProblem(f"'{found.name}' is offered in {', '.join(found.colours)}, not in {colour}")
            made = stock_picture(document, StockView(found, colour, ink, read=True), width)  # type: ignore[arg-type]
        except StockProblem as problem:
            fail(str(problem))
            return
        _write_picture(target, made.pixels, fail, not as_json)
        names = {n.id: n.name for n in walk(document.root)}
        rows = [
            {"node": r.node, "name": names.get(r.node, ""), "ratio": round(r.ratio, 2), "worst": round(r.local, 2),
             "lightness": round(r.lightness, 1)} for r in made.read
        ]  # fmt: skip
        if as_json:
            click.echo(msgspec.json.encode(rows).decode())
            return
        for row in rows:
            if float(str(row["ratio"])) < READABLE:
                click.echo(
                    f"  {row['name']} (id {row['node']}): {row['ratio']} : 1, {row['lightness']} apart in lightness"
                )


def _own_stock(name: str, fail: Fail) -> Stock:
    from volumen.cli_reading import read_apart
    from volumen.formats.foreign import FileToRead, StockFile

    return read_apart(FileToRead("stock", name), StockFile, fail).stock


def _write(target: Path, data: bytes, fail: Fail) -> None:
    from volumen.formats.files import FileProblem, write_bytes

    try:
        write_bytes(target, data)
    except FileProblem as problem:
        fail(str(problem))


def _write_picture(target: Path, pixels: object, fail: Fail, tell: bool = True) -> None:
    import numpy as np

    from volumen.formats.bitmaps import opaque_png

    levels = np.asarray(pixels, np.uint8)
    _write(target, opaque_png(levels), fail)
    if tell:
        click.echo(f"{target}  {levels.shape[1]} x {levels.shape[0]} pixels")
