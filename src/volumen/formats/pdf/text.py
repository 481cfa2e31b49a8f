"""Words that stay text in PDF: glyphs placed one by one, their letters embedded and told in Unicode.

Fonts whose outlines are not TrueType, that have axes, or whose makers forbid embedding are left as outlines.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

import pikepdf
from fontTools import subset
from fontTools.ttLib import TTFont, TTLibError

from volumen.caching import by_value
from volumen.formats.pdf.objects import nums
from volumen.geometry.affine import multiply
from volumen.geometry.fonts import FontFile, match
from volumen.model.nodes import TextForm
from volumen.outline.forms import text_glyphs

Array, Dictionary, Name, Stream, String = (
    pikepdf.Array, pikepdf.Dictionary, pikepdf.Name, pikepdf.Stream, pikepdf.String,
)  # fmt: skip
_TABLES = {"glyf", "head", "hhea", "hmtx", "post", "name"}
_RESTRICTED, _NO_SUBSET, _BITMAPS_ONLY = 0x2, 0x100, 0x200  # bits of fsType in the table OS/2


class Fonts:
    """The fonts of a PDF: letters are gathered while text is written, and embedded at the end."""

    def __init__(self, pdf: Any, resources: Any) -> None:
        self.pdf, self.resources = pdf, resources
        self.known: dict[FontFile, tuple[str, Any, dict[int, str]]] = {}

    def operators(self, words: TextForm) -> str | None:
        """The operators that show a text in its shape's coordinates; None where its font cannot be embedded."""
        file = match(words.family, words.style).file
        upem = embeddable(file)
        if upem is None:
            return None
        name, _, letters = self._font(file)
        glyphs = text_glyphs(words)
        starts = sorted({g.cluster for g in glyphs})
        ends = dict(zip(starts, [*starts[1:], len(words.text)], strict=True))
        lines = [f"BT /{name} 1 Tf"]
        for k, g in enumerate(glyphs):
            first = not k or glyphs[k - 1].cluster != g.cluster  # the first of glyphs that are one letter says it
            letters.setdefault(g.gid, words.text[g.cluster : ends[g.cluster]] if first else "")
            if g.outline or g.advance:
                lines.append(f"{nums(*multiply(g.place, (upem, 0.0, 0.0, -upem, 0.0, 0.0)))} Tm <{g.gid:04X}> Tj")
        return "\n".join([*lines, "ET\n"])

    def _font(self, file: FontFile) -> tuple[str, Any, dict[int, str]]:
        known = self.known.get(file)
        if known is None:
            name, font = f"F{len(self.known) + 1}", self.pdf.make_indirect(Dictionary(Type=Name.Font))
            if "/Font" not in self.resources:
                self.resources.Font = Dictionary()
            self.resources.Font[f"/{name}"] = font
            known = self.known[file] = (name, font, {})
        return known

    def embed(self) -> None:
        """Fill in the fonts, with the letters that are used of each."""
        for number, (file, (_, font, letters)) in enumerate(self.known.items()):
            self._fill_in(font, file, letters, "".join(chr(65 + number // 26**k % 26) for k in range(6)))

    def _fill_in(self, font: Any, file: FontFile, letters: dict[int, str], tag: str) -> None:
        with _opened(file) as whole:
            upem, head, shape = whole["head"].unitsPerEm, whole["head"], whole["hhea"]
            told = whole["name"].getDebugName(6) or file.family.replace(" ", "")
            widths = {gid: 1000 * whole["hmtx"][whole.getGlyphName(gid)][0] / upem for gid in letters}
            slant, fixed = whole["post"].italicAngle, whole["post"].isFixedPitch
        data = Stream(self.pdf, _subset(file, sorted(letters)))
        data.Length1 = len(data.read_bytes())
        name = Name(f"/{tag}+{told}")
        em = 1000 / upem
        descriptor = Dictionary(
            Type=Name.FontDescriptor, FontName=name, Flags=4 | (1 if fixed else 0) | (64 if slant else 0),
            FontBBox=Array([round(v * em) for v in (head.xMin, head.yMin, head.xMax, head.yMax)]),
            ItalicAngle=round(slant), Ascent=round(shape.ascent * em), Descent=round(shape.descent * em),
            CapHeight=round(shape.ascent * em), StemV=80, FontFile2=self.pdf.make_indirect(data),
        )  # fmt: skip
        inner = Dictionary(
            Type=Name.Font, Subtype=Name.CIDFontType2, BaseFont=name, CIDToGIDMap=Name.Identity,
            CIDSystemInfo=Dictionary(Registry=String("Adobe"), Ordering=String("Identity"), Supplement=0),
            FontDescriptor=self.pdf.make_indirect(descriptor),
            W=Array([v for gid in sorted(widths) for v in (gid, Array([round(widths[gid], 2)]))]),
        )  # fmt: skip
        font.update({
            "/Subtype": Name.Type0, "/BaseFont": name, "/Encoding": Name("/Identity-H"),
            "/DescendantFonts": Array([self.pdf.make_indirect(inner)]),
            "/ToUnicode": self.pdf.make_indirect(Stream(self.pdf, _to_unicode(letters))),
        })  # fmt: skip


@by_value("fonts to embed", 64, lasting=True)
def embeddable(file: FontFile) -> float | None:
    """The units per em of a font that may be embedded as it is; None of one that may not, or cannot be read."""
    try:
        with _opened(file) as font:
            rights = font["OS/2"].fsType if "OS/2" in font else 0
            plain = "fvar" not in font and set(font.keys()) >= _TABLES
            allowed = not rights & (_NO_SUBSET | _BITMAPS_ONLY) and rights & 0xF != _RESTRICTED
            return float(font["head"].unitsPerEm) if plain and allowed else None
    except (TTLibError, OSError, KeyError, AssertionError, ValueError):
        return None


def _opened(file: FontFile) -> TTFont:
    return TTFont(io.BytesIO(file.path.read_bytes()), fontNumber=file.index, lazy=True)


def _subset(file: FontFile, glyphs: Sequence[int]) -> bytes:
    """A font file with some glyphs only, under the numbers that they have."""
    options = subset.Options(
        retain_gids=True, notdef_outline=True, glyph_names=False, layout_features=[], name_IDs=[], hinting=False,
        drop_tables=[*subset.Options().drop_tables, "GSUB", "GPOS", "GDEF", "STAT", "DSIG", "gasp"],
    )  # fmt: skip
    cut = subset.Subsetter(options)
    cut.populate(gids=list(glyphs))
    with _opened(file) as font:
        cut.subset(font)
        out = io.BytesIO()
        font.save(out)
    return out.getvalue()


def _to_unicode(letters: dict[int, str]) -> bytes:
    """A CMap from glyphs to what they stand for (ISO 32000-1, 9.10.3)."""
    rows = [f"<{gid:04X}> <{text.encode('utf-16-be').hex().upper()}>" for gid, text in sorted(letters.items()) if text]
    parts = [rows[k : k + 100] for k in range(0, len(rows), 100)]
    body = "".join(f"{len(part)} beginbfchar\n" + "\n".join(part) + "\nendbfchar\n" for part in parts)
    return (
        "/CIDInit /ProcSet findresource begin\n12 dict begin\nbegincmap\n"
        "/CIDSystemInfo << /Registry (Adobe) /Ordering (UCS) /Supplement 0 >> def\n"
        "/CMapName /Adobe-Identity-UCS def\n/CMapType 2 def\n"
        "1 begincodespacerange\n<0000> <FFFF>\nendcodespacerange\n"
        f"{body}endcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n"
    ).encode("ascii")
