"""Hostile files by code: structure-aware mutations of what each reader takes, within bounds of time and memory.

``python tests/hostile.py --files 1000`` prints for each reader how many were read and refused, and the slowest.
"""

from __future__ import annotations

import argparse
import copy
import io
import json
import random
import resource
import struct
import sys
import tempfile
import time
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection
from pathlib import Path

import numpy as np
import tifffile
from lxml import etree
from PIL import Image as Pillow

from scenes import disc, document, feature_card, lit_trio
from volumen.colour.press_settings import Press
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.formats import native
from volumen.formats.files import FileProblem
from volumen.formats.foreign import Artwork, FileToRead, read_here
from volumen.formats.material_files import read_materials
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.svg.write import svg_bytes
from volumen.geometry.fonts import BUNDLED, _read_names
from volumen.model.make import solid
from volumen.model.nodes import Document
from volumen.model.tree import walk
from volumen.model.validate import validate
from volumen.processes import get_ready, started
from volumen.shading.materials import MATERIALS

MOST_SECONDS = 2.0
MOST_BYTES = 1_500_000_000
_NUMBERS = (
    0, -1, 1, 0.5, 1e9, -1e9, 1e-9, 1e300, -1e300, 1e999, 2**31, 2**53, 2**63, 2**64, 10**30, 255, 1000, 100_000
)  # fmt: skip
_TEXTS = ("", "x" * 30_000, "\u0000", "\ud7ff", "🙂" * 500, "'; --", "../../etc", "url(#a)", "NaN", "%s%n", "0" * 400)
_ATTRIBUTES = (
    "1e400", "-1e30", "nan", "", "((((" * 2000, "url(#g)", "M" + "0 0L9e9 9e9" * 400, "M0 0" + "a1 1 0 0 1 9 9" * 900, "none",
    "matrix(0 0 0 0 0 0)", "scale(1e30)", "rotate(1e30)", "inherit", "100000%", "1" * 500, "#zzz", "#g", "rgb(,,)",
)  # fmt: skip
Make = Callable[[random.Random], bytes]


def _tree(value: object, r: random.Random, times: int = 1) -> object:
    """JSON with a few places changed: numbers and texts to their extremes, rows longer, parts moved and left out."""
    whole = copy.deepcopy(value)
    for _ in range(times):
        places: list[tuple[object, object]] = []
        stack = [whole]
        while stack:
            part = stack.pop()
            items = part.items() if isinstance(part, dict) else enumerate(part) if isinstance(part, list) else ()
            for key, inner in items:
                places.append((part, key))
                if isinstance(inner, dict | list):
                    stack.append(inner)
        if not places:
            return whole
        holder, key = r.choice(places)
        held = holder[key]  # type: ignore[index]
        kind = r.randrange(7)
        if kind == 0:
            holder[key] = r.choice(_NUMBERS)  # type: ignore[index]
        elif kind == 1:
            holder[key] = r.choice(_TEXTS)  # type: ignore[index]
        elif kind == 2 and isinstance(held, list):
            holder[key] = held * r.choice((0, 2, 30, 600))  # type: ignore[index]
        elif kind == 3 and isinstance(holder, dict):
            del holder[key]
        elif kind == 4:
            other, place = r.choice(places)
            holder[key] = copy.deepcopy(other[place])  # type: ignore[index]
        elif kind == 5:
            for _ in range(r.choice((1, 60, 500))):
                held = [held]
            holder[key] = held  # type: ignore[index]
        elif isinstance(held, int | float) and not isinstance(held, bool):
            holder[key] = held * r.choice((-1, 0, 1e3, 1e6, 1e12))  # type: ignore[index]
    return whole


@contextmanager
def _deep() -> Iterator[None]:
    """What is nested deep can be copied and written in here."""
    usual = sys.getrecursionlimit()
    sys.setrecursionlimit(20_000)
    try:
        yield
    finally:
        sys.setrecursionlimit(usual)


def _bytes(data: bytes, r: random.Random) -> bytes:
    """Bytes flipped, cut off, put twice or left out."""
    out = bytearray(data)
    for _ in range(r.choice((1, 1, 3, 20))):
        at = r.randrange(max(len(out), 1))
        kind = r.randrange(4)
        if kind == 0 and out:
            out[at] = r.randrange(256)
        elif kind == 1:
            del out[at:]
        elif kind == 2:
            out[at:at] = out[at : at + r.choice((1, 9, 300))] * r.choice((1, 40))
        else:
            del out[at : at + r.choice((1, 5, 90))]
    return bytes(out)


def _archive(content: bytes, r: random.Random) -> bytes:
    out = io.BytesIO()
    method = r.choice([zipfile.ZIP_DEFLATED] * 8 + [zipfile.ZIP_STORED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
    with zipfile.ZipFile(out, "w", method) as z:
        z.writestr("mimetype", native.MIME)
        z.writestr("document.json", content)
        if r.random() < 0.1:
            z.writestr("assets/" + "0" * 32, b"\0" * r.choice((10, 5_000_000)))
    return out.getvalue()


def _documents() -> list[object]:
    made = [lit_trio(), feature_card(), *(DEMOS[n][1]() for n in ("net-float", "anchor", "ferry", "jelly"))]
    return [json.loads(native.encode(d)) for d in made]


def _natives() -> Make:
    documents = _documents()

    def make(r: random.Random) -> bytes:
        content = json.dumps(_tree(r.choice(documents), r, r.choice((1, 1, 2, 8)))).encode()
        if r.random() < 0.1:
            content = _bytes(content, r)
        data = _archive(content, r)
        return _bytes(data, r) if r.random() < 0.15 else data

    return make


_SVG = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:x="http://www.w3.org/1999/xlink" viewBox="0 0 90 90" width="90mm">
<style>.a{fill:red;opacity:.5} #b.a, rect{stroke:url(#g)} *{stroke-width:2}</style><defs><linearGradient id="g"><stop offset="0"
stop-color="red"/><stop offset="1" stop-color="blue" stop-opacity="0"/></linearGradient><clipPath id="c"><circle r="9"/><rect
width="9" height="5"/></clipPath><symbol id="s"><path d="M0 0h9v9z"/></symbol></defs><g id="b" class="a" transform="rotate(9)"
clip-path="url(#c)"><rect width="30" height="20" rx="4" style="fill:url(#g)"/><use href="#s" x="4"/><text x="9">Kelder</text></g>
<polygon points="0,0 9,9 3,4"/><path d="M1 1C2 2 3 3 4 4S5 5 6 6Q7 7 8 8T9 9A3 4 5 0 1 9 2z" fill-rule="evenodd"/></svg>"""


def _drawings() -> Make:
    texts = [_SVG.encode(), *(svg_bytes(build(DEMOS[n][1](), flat=True)) for n in ("anchor", "ferry"))]

    def make(r: random.Random) -> bytes:
        data = r.choice(texts)
        if r.random() < 0.15:
            return _bytes(data, r)
        root = etree.fromstring(data)
        for _ in range(r.choice((1, 2, 6))):
            _mutate_element(root, r)
        return bytes(etree.tostring(root, encoding=r.choice(("utf-8", "utf-8", "utf-16", "iso-8859-1"))))

    return make


def _mutate_element(root: etree._Element, r: random.Random) -> None:
    e = r.choice([x for x in root.iter() if isinstance(x.tag, str)])
    kind = r.randrange(6)
    if kind == 0 and e.attrib:
        e.set(r.choice(list(e.attrib)), r.choice(_ATTRIBUTES))
    elif kind == 1:
        names = (
            "style",
            "transform",
            "d",
            "clip-path",
            "fill",
            "stroke",
            "opacity",
            "viewBox",
            "href",
            "class",
            "font-size",
        )
        e.set(r.choice(names), r.choice(_ATTRIBUTES))
    elif kind == 2 and e.getparent() is not None:
        at = e.getparent()
        for _ in range(r.choice((1, 30, 800))):
            at.append(copy.deepcopy(e))
    elif kind == 3 and e.getparent() is not None:
        inner, at = e, e.getparent()
        for _ in range(r.choice((3, 90, 400))):
            outer = etree.Element("{http://www.w3.org/2000/svg}g")
            at.append(outer)
            outer.append(inner)
            inner, at = outer, at
    elif kind == 4:
        sheet = etree.SubElement(root, "{http://www.w3.org/2000/svg}style")
        sheet.text = r.choice((".a{fill:red}" * 3000, "a," * 40_000 + "b{fill:red}", "x{fill:" + "(" * 5000, "@media{"))
    else:
        e.tag = "{http://www.w3.org/2000/svg}" + r.choice(("use", "g", "path", "svg", "clipPath", "stop", "text", "b"))


def _palettes(suffix: str) -> Make:
    colours = {"swatches": [{"name": f"c{k}", "colour": f"#20{k:02x}40", "group": "g"} for k in range(9)]}
    css = b":root { --a: #123456; --b: rgb(1 2 3 / 50%); } .g { --c: oklch(50% .1 20); }"

    def make(r: random.Random) -> bytes:
        if suffix == ".svg":
            return _drawings_make(r)
        if suffix == ".json":
            data = json.dumps(_tree(colours, r, r.choice((1, 3)))).encode()
        else:
            data = css * r.choice((1, 1, 50, 4000)) + r.choice(_ATTRIBUTES).encode()
        return _bytes(data, r) if r.random() < 0.4 else data

    _drawings_make = _drawings() if suffix == ".svg" else _bytes  # type: ignore[assignment]
    return make


def _materials() -> Make:
    from volumen.formats import material_files

    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "m.json"
        material_files.write_materials(tuple(MATERIALS.values())[:4], path)
        value = json.loads(path.read_bytes())

    def make(r: random.Random) -> bytes:
        data = json.dumps(_tree(value, r, r.choice((1, 3)))).encode()
        return _bytes(data, r) if r.random() < 0.3 else data

    return make


def _pictures(kind: str) -> Make:
    modes = {"PNG": ("RGB", "RGBA", "L", "P", "I;16", "1", "LA"), "JPEG": ("RGB", "L", "CMYK"), "TIFF": ("RGB", "RGBA", "F", "CMYK"),
             "WEBP": ("RGB", "RGBA")}[kind]  # fmt: skip
    texts = []
    for mode in modes:
        base = Pillow.fromarray((np.indices((40, 60)).sum(0)[..., None] * [1, 2, 3] % 256).astype(np.uint8))
        image = Pillow.new("I;16", (60, 40), 900) if mode == "I;16" else base.convert(mode)
        out = io.BytesIO()
        image.save(out, kind)
        texts.append(out.getvalue())

    def make(r: random.Random) -> bytes:
        data = r.choice(texts)
        if kind == "PNG" and r.random() < 0.3:  # another size, with the right sum
            w, h = (r.choice((0, 1, 60, 10_000, 20_000, 2**31 - 1)) for _ in range(2))
            head = b"IHDR" + struct.pack(">II", w, h) + data[24:29]
            return data[:12] + head + struct.pack(">I", zlib.crc32(head)) + data[33:]
        return _bytes(data, r)

    return make


def _fonts() -> Make:
    texts = [p.read_bytes() for p in sorted(BUNDLED.rglob("*.ttf"))[:3]]
    return lambda r: _bytes(r.choice(texts), r)


def _printables(kind: str) -> Make:
    """Files that the simulated press is given: PDF/X-4 and plain, TIFF in inks and in colours."""
    if kind == "pdf":
        scene = build(document(disc(1, 30, 20, 15, solid("#c8402a")), side=60.0))
        texts = [pdf_bytes(scene, press=Press()), pdf_bytes(scene)]
    else:
        for out, inks, space in zip(outs := [io.BytesIO(), io.BytesIO()], (4, 3), ("separated", "rgb"), strict=True):
            tifffile.imwrite(out, np.full((40, 60, inks), 90, np.uint8), photometric=space)
        texts = [out.getvalue() for out in outs]
    return lambda r: _bytes(r.choice(texts), r)


READERS: dict[str, tuple[str, Callable[[], Make]]] = {
    "artwork": (".volumen", _natives), "svg artwork": (".svg", _drawings), "palette css": (".css", lambda: _palettes(".css")),
    "palette json": (".json", lambda: _palettes(".json")), "palette svg": (".svg", lambda: _palettes(".svg")),
    "material": (".json", _materials), "picture png": (".png", lambda: _pictures("PNG")),
    "picture jpeg": (".jpg", lambda: _pictures("JPEG")), "picture tiff": (".tif", lambda: _pictures("TIFF")),
    "picture webp": (".webp", lambda: _pictures("WEBP")), "font": (".ttf", _fonts),
    "printable pdf": (".pdf", lambda: _printables("pdf")), "printable tiff": (".tif", lambda: _printables("tiff")),
}  # fmt: skip


def read_one(reader: str, path: Path) -> tuple[str, Document | None]:
    """Read a file, and build what it holds; what came of it in words, and the artwork. Raises what must not be raised."""
    found = None
    try:
        if reader == "font":
            _read_names(path)
        elif reader == "material":
            read_materials(path)
        else:
            found = read_here(FileToRead(reader if "artwork" in reader else reader.split()[0], str(path)))
    except FileProblem as problem:
        cause = problem.__cause__
        if " cannot be read: " in str(problem) and type(cause).__name__ + ":" in str(problem):
            raise AssertionError(f"a fault of the reader: {problem}") from cause
        if len(str(problem)) > 1500 or not (path.name in str(problem) or "SVG" in str(problem)):
            raise AssertionError(f"a message that helps no one: {problem}"[:400]) from problem
        return "refused", None
    return "read", found.document if isinstance(found, Artwork) else None


def most_memory() -> int:
    """The most bytes this process has held; the system's own count goes on from that of its parent."""
    line = next(x for x in Path("/proc/self/status").read_text().splitlines() if x.startswith("VmHWM"))
    return int(line.split()[1]) * 1024


def _serve(connection: Connection) -> None:
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, MOST_BYTES))
    while True:
        try:
            reader, path = connection.recv()
        except EOFError:
            return
        start, pieces = time.process_time(), 0
        try:
            what, document = read_one(reader, Path(path))
            taken = time.process_time() - start
            if document is not None:
                pieces = sum(1 for _ in walk(document.root))
                validate(document)  # reading has done so: that is held here, and is no part of its time
                build(document)  # nor is composing, which a worker does and can be ended in
        except BaseException as error:
            import traceback

            what = f"{type(error).__name__}: {error}\n{traceback.format_exc()[-1500:]}"
            taken = time.process_time() - start
        connection.send((what, taken, most_memory(), pieces))


def run(reader: str, count: int, seed: int = 1, keep: Path | None = None) -> tuple[dict[str, int], float, list[str]]:
    """Read some hostile files: how many were read and refused, the slowest in seconds, and what went wrong."""
    suffix, maker = READERS[reader]
    make = maker()
    get_ready()
    counts, slowest, wrong = {"read": 0, "refused": 0}, 0.0, []
    connection = process = None
    with tempfile.TemporaryDirectory() as place:
        for k in range(count):
            if connection is None:
                process, connection = started(_serve, name="hostile")
            path = Path(place) / f"hostile-{reader.split()[0]}-{seed}-{k}{suffix}"
            with _deep():
                path.write_bytes(make(random.Random(f"{seed} {reader} {k}")))
            connection.send((reader, str(path)))
            what, seconds, size, pieces = connection.recv() if connection.poll(30) else ("it hangs", 30.0, 0, 0)
            slowest = max(slowest, seconds)
            # what is honestly large, in bytes or in pieces, can be stopped by hand
            bound = MOST_SECONDS * max(path.stat().st_size / 2**20, pieces / 1000, 1.0)
            if what not in counts or seconds > bound or size > MOST_BYTES:
                wrong.append(f"{path.name}: {what}, {seconds:.1f} s, {size >> 20} MB")
                if keep is not None:
                    keep.mkdir(exist_ok=True)
                    (keep / path.name).write_bytes(path.read_bytes())
                process.kill()
                connection = None
            else:
                counts[what] += 1
            path.unlink()
        if process is not None:
            process.kill()
    return counts, slowest, wrong


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=1000)
    parser.add_argument("--reader", default="", choices=["", *READERS])
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--keep", type=Path, help="a folder for what went wrong")
    o = parser.parse_args()
    bad = 0
    for reader in [o.reader] if o.reader else READERS:
        counts, slowest, wrong = run(reader, o.files, o.seed, o.keep)
        bad += len(wrong)
        print(f"{reader:14} {counts['read']:5} read {counts['refused']:5} refused {len(wrong):4} wrong, "
              f"slowest {slowest:.2f} s", flush=True)  # fmt: skip
        for line in wrong[:5]:
            print("   ", line, flush=True)
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
