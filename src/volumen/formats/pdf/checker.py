"""Whether a PDF is fit for the press: a walk over every object against the rules of PDF/X-4 (ISO 15930-7) that
``docs/file-format.md`` lists. It is no certificate: a print shop has checkers of its own."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from typing import Any

import pikepdf

from volumen.formats.pdf.objects import NEWEST_PROFILE
from volumen.formats.pdf.press import VERSION, XMP_ID

_DEVICE_RGB = {"rg", "RG"}
_FORBIDDEN_ACTIONS = ("/AA", "/OpenAction", "/JavaScript")
_TOLERANCE = 0.01  # pt, by which boxes may stick out
MOST_BYTES = 1 << 30
_MOST_FOUND = 1_000
_DEEPEST = 60  # forms within forms

Report = Callable[[str], None]


class _Enough(Exception):
    """More is wrong than anyone reads."""


class PdfProblem(ValueError):
    """A file that is no PDF that can be read; the message says why."""


def press_findings(data: bytes) -> list[str]:
    """What is wrong with a PDF for the press, each once; empty where nothing is. Raises PdfProblem."""
    if len(data) > MOST_BYTES:
        raise PdfProblem("the file is larger than 1 GB")
    found: dict[str, None] = {}

    def report(what: str) -> None:
        found[what] = None
        if len(found) == _MOST_FOUND:
            raise _Enough

    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            for warning in pdf.get_warnings():
                report(f"its structure is damaged: {warning}")
            _file(pdf, data, report)
            _intent(pdf, report)
            _metadata(pdf, report)
            walk = _Walk(report)
            for number, page in enumerate(pdf.pages, 1):
                _boxes(page.obj, number, report)
                walk.page(page.obj, f"page {number}")
            _objects(pdf, report)
    except _Enough:
        return [*found, f"only the first {_MOST_FOUND} findings are told"]
    except pikepdf.PasswordError:
        return ["it is encrypted"]
    except (pikepdf.PdfError, RecursionError, AttributeError, TypeError, KeyError) as error:
        raise PdfProblem(f"it cannot be read as a PDF: {str(error)[:200]}") from error
    return list(found)


def _file(pdf: Any, data: bytes, report: Report) -> None:
    if float(pdf.pdf_version) > 1.6:
        report(f"it is PDF {pdf.pdf_version}; PDF/X-4 goes up to 1.6")
    if "/ID" not in pdf.trailer:
        report("its trailer has no /ID")
    if pdf.is_encrypted:
        report("it is encrypted")
    if not pdf.pages:
        report("it has no pages")


def _intent(pdf: Any, report: Report) -> None:
    intents = [i for i in pdf.Root.get("/OutputIntents", []) if i.get("/S") == "/GTS_PDFX"]
    if len(intents) != 1:
        report(f"it has {len(intents)} output intents for PDF/X; there must be one")
        return
    intent = intents[0]
    if not str(intent.get("/OutputConditionIdentifier", "")):
        report("its output intent names no condition of the press")
    profile = intent.get("/DestOutputProfile")
    if profile is None:
        report("its output intent holds no profile")
        return
    head = profile.read_bytes()[:40]
    if head[12:16] != b"prtr" or head[16:20] != b"CMYK" or profile.get("/N") != 4:
        report("the profile of its output intent is not that of a CMYK press")
    if _too_new(head):
        report(f"the profile of its output intent is of ICC version {head[8]}.{head[9] >> 4}; PDF/X-4 goes up to 4.2")


def _too_new(profile: bytes) -> bool:
    return len(profile) > 9 and (profile[8], profile[9] >> 4) > NEWEST_PROFILE


def _metadata(pdf: Any, report: Report) -> None:
    if "/Metadata" not in pdf.Root:
        report("it has no XMP metadata")
        return
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as xmp:
        if str(xmp.get(f"{{{XMP_ID}}}GTS_PDFXVersion", "")) != VERSION:
            report(f"its metadata does not say {VERSION}")
        for field in ("xmp:CreateDate", "xmp:ModifyDate", "xmp:MetadataDate", "dc:title", "xmpMM:DocumentID"):
            if not xmp.get(field):
                report(f"its metadata lacks {field}")
        if str(xmp.get("pdf:Trapped", "")) not in ("True", "False"):
            report("its metadata does not say whether it is trapped")
    if pdf.docinfo.get("/Trapped") not in (pikepdf.Name("/True"), pikepdf.Name("/False")):
        report("it does not say whether it is trapped")


def _boxes(page: Any, number: int, report: Report) -> None:
    trim, art, bleed = page.get("/TrimBox"), page.get("/ArtBox"), page.get("/BleedBox")
    if (trim is None) == (art is None):
        report(f"page {number} must have a trim box or an art box, one of them")
    media = page.get("/MediaBox")
    if media is None:
        report(f"page {number} has no media box")
        return
    inner = trim if trim is not None else art
    for name, box, outer in (("bleed box", bleed, media), ("trim box", inner, bleed if bleed is not None else media)):
        if box is not None and not _within(box, outer):
            report(f"the {name} of page {number} sticks out of the box round it")
    if float(page.get("/UserUnit", 1)) != 1:
        report(f"page {number} is scaled by a user unit")
    for note in page.get("/Annots", []):
        rect = note.get("/Rect")
        if rect is not None and _meets(rect, bleed if bleed is not None else media):
            report(f"page {number} has an annotation within what is printed")


def _within(box: Any, outer: Any) -> bool:
    a, b = [float(v) for v in box], [float(v) for v in outer]
    low = all(x >= y - _TOLERANCE for x, y in zip(a[:2], b[:2], strict=True))
    return low and all(x <= y + _TOLERANCE for x, y in zip(a[2:], b[2:], strict=True))


def _meets(box: Any, outer: Any) -> bool:
    a, b = [float(v) for v in box], [float(v) for v in outer]
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def _objects(pdf: Any, report: Report) -> None:
    """What no object of the file may hold, wherever it lies."""
    for holder in (pdf.Root, *(p.obj for p in pdf.pages)):
        for key in _FORBIDDEN_ACTIONS:
            if key in holder:
                report(f"it holds an action ({key})")
    if "/Names" in pdf.Root and "/JavaScript" in pdf.Root.Names:
        report("it holds an action (/JavaScript)")
    spots: dict[str, bytes] = {}
    for thing in _all(pdf):
        if isinstance(thing, pikepdf.Array) and len(thing) == 4 and thing[0] == "/Separation":
            name, written = str(thing[1]), _plain(thing[2]) + _plain(thing[3])
            if spots.setdefault(name, written) != written:
                report(f"the spot ink {name} is defined in two ways")
        if isinstance(thing, pikepdf.Stream):
            filters = thing.get("/Filter")
            named = [filters] if isinstance(filters, pikepdf.Name) else list(filters or [])
            if "/LZWDecode" in named:
                report("a stream is packed by LZW")
            if "/F" in thing:
                report("a stream lies outside the file")
        if isinstance(thing, pikepdf.Dictionary | pikepdf.Stream):
            kind = thing.get("/Type")
            if kind == "/Font" and not _embedded(thing):
                report(f"the font {thing.get('/BaseFont', '')} is not embedded")
            if "/TR" in thing or thing.get("/TR2", "/Default") != "/Default":
                report("a transfer function changes its tones")


def _all(pdf: Any) -> Iterator[Any]:
    """Every array, dictionary and stream of a file, those within others too."""
    for top in pdf.objects:
        stack = [(top, 0)]
        while stack:
            thing, depth = stack.pop()
            if not isinstance(thing, pikepdf.Array | pikepdf.Dictionary | pikepdf.Stream):
                continue
            yield thing
            inner = list(thing) if isinstance(thing, pikepdf.Array) else [v for _, v in thing.items()]
            if depth < _DEEPEST:
                stack += [(v, depth + 1) for v in inner if isinstance(v, pikepdf.Object) and not v.is_indirect]


def _plain(thing: Any) -> bytes:
    return bytes(thing.unparse(resolved=False))


def _embedded(font: Any) -> bool:
    if font.get("/Subtype") == "/Type3":
        return True
    inner = font.DescendantFonts[0] if "/DescendantFonts" in font else font
    told = inner.get("/FontDescriptor", {})
    return any(k in told for k in ("/FontFile", "/FontFile2", "/FontFile3"))


class _Walk:
    """All colour that is drawn with: content streams, forms, patterns, images and shadings, each once."""

    def __init__(self, report: Report) -> None:
        self.report = report
        self.seen: set[tuple[int, int]] = set()

    def page(self, page: Any, where: str) -> None:
        resources = page.get("/Resources", pikepdf.Dictionary())
        self._group(page.get("/Group"), where)
        self._stream(page, where)
        self._resources(resources, where, 0)

    def _stream(self, thing: Any, where: str) -> None:
        for instruction in pikepdf.parse_content_stream(thing):
            operands, word = instruction.operands, str(instruction.operator)
            if word in _DEVICE_RGB or (word in ("cs", "CS") and operands and operands[0] == "/DeviceRGB"):
                self.report(f"{where} draws in RGB without a profile")
            elif word == "INLINE IMAGE":
                image = operands[0]
                if str(getattr(image, "colorspace", "")) in ("/DeviceRGB", "/RGB"):
                    self.report(f"{where} holds an image in RGB without a profile")

    def _resources(self, resources: Any, where: str, depth: int) -> None:
        if depth > _DEEPEST:
            self.report("forms lie in forms without end")
            return
        for name, space in self._each(resources, "/ColorSpace"):
            self._space(space, f"the colour space {name} of {where}")
        for name, shading in self._each(resources, "/Shading"):
            if self._new(shading):
                self._space(shading.get("/ColorSpace"), f"a shading ({name}) of {where}")
        for name, state in self._each(resources, "/ExtGState"):
            mask = state.get("/SMask")
            if isinstance(mask, pikepdf.Dictionary) and "/G" in mask:
                self._form(mask.G, f"a mask ({name}) of {where}", depth)
        for name, pattern in self._each(resources, "/Pattern"):
            if self._new(pattern):
                if "/Shading" in pattern:
                    self._space(pattern.Shading.get("/ColorSpace"), f"a pattern ({name}) of {where}")
                if isinstance(pattern, pikepdf.Stream):
                    self._stream(pattern, f"a pattern ({name}) of {where}")
                    self._resources(pattern.get("/Resources", pikepdf.Dictionary()), where, depth + 1)
        for name, thing in self._each(resources, "/XObject"):
            kind = thing.get("/Subtype")
            if kind == "/Form":
                self._form(thing, f"a form ({name}) of {where}", depth)
            elif kind == "/Image":
                self._image(thing, f"an image ({name}) of {where}")
            else:
                self.report(f"{where} holds an object of kind {kind}")

    def _each(self, resources: Any, category: str) -> Iterator[tuple[str, Any]]:
        yield from resources.get(category, pikepdf.Dictionary()).items()

    def _new(self, thing: Any) -> bool:
        if not thing.is_indirect:
            return True
        fresh = thing.objgen not in self.seen
        self.seen.add(thing.objgen)
        return fresh

    def _form(self, form: Any, where: str, depth: int) -> None:
        if not self._new(form):
            return
        self._group(form.get("/Group"), where)
        if "/Ref" in form or "/OPI" in form:
            self.report(f"{where} stands for another file")
        self._stream(form, where)
        resources = form.get("/Resources")
        if resources is not None and self._new(resources):
            self._resources(resources, where, depth + 1)

    def _image(self, image: Any, where: str) -> None:
        if not self._new(image):
            return
        if "/Alternates" in image:
            self.report(f"{where} has alternates")
        if not image.get("/ImageMask", False):
            self._space(image.get("/ColorSpace"), where)
        if "/SMask" in image:
            self._space(image.SMask.get("/ColorSpace"), f"the mask of {where}")

    def _group(self, group: Any, where: str) -> None:
        if group is not None and "/CS" in group:
            self._space(group.CS, f"the group of {where}")

    def _space(self, space: Any, where: str) -> None:
        if space is None:
            return
        if isinstance(space, pikepdf.Name):
            if space == "/DeviceRGB":
                self.report(f"{where} is in RGB without a profile")
            return
        if not isinstance(space, pikepdf.Array) or not len(space):
            return
        kind = str(space[0])
        if kind == "/ICCBased":
            self._profile(space[1], where)
        elif kind == "/Separation":
            if not str(space[1]).strip("/"):
                self.report(f"{where} is in a spot ink without a name")
            self._space(space[2], where)
        elif kind in ("/Indexed", "/Pattern") and len(space) > 1:
            self._space(space[1], where)
        elif kind == "/DeviceN":
            self._space(space[2], where)

    def _profile(self, stream: Any, where: str) -> None:
        if not self._new(stream):
            return
        data = stream.read_bytes()
        kind = {b"RGB ": 3, b"CMYK": 4, b"GRAY": 1, b"Lab ": 3}.get(data[16:20])
        if kind is None or stream.get("/N") != kind:
            self.report(f"{where} has a profile that does not fit")
        if _too_new(data):
            self.report(f"{where} has a profile of ICC version {data[8]}.{data[9] >> 4}; PDF/X-4 goes up to 4.2")
