"""Which fonts there are: the bundled ones and those installed on the machine."""

from __future__ import annotations

import os
from dataclasses import dataclass
from functools import cache
from pathlib import Path as FilePath

import uharfbuzz as hb

from volumen.caching import by_value

BUNDLED = FilePath(__file__).parent.parent / "fonts"
DEFAULT_FAMILY = "Vollkorn"
_SUFFIXES = {".ttf", ".otf", ".ttc"}
_LEGACY_FAMILY, _LEGACY_STYLE, _FAMILY, _STYLE = 1, 2, 16, 17  # name ids of OpenType


@dataclass(frozen=True, slots=True)
class FontFile:
    """A font in a file; ``index`` is its number in a collection."""

    family: str
    style: str
    path: FilePath
    index: int = 0


@dataclass(frozen=True, slots=True)
class Match:
    """The font for a wish. ``substitute`` tells that family or style is another one than wished."""

    file: FontFile
    substitute: bool


def font_folders() -> list[FilePath]:
    """Where fonts are looked for, the bundled ones first."""
    home = FilePath("~").expanduser() if os.environ.get("HOME") else FilePath("/nonexistent")
    data = FilePath(os.environ.get("XDG_DATA_HOME") or home / ".local" / "share")
    return [BUNDLED, data / "fonts", home / ".fonts", FilePath("/usr/local/share/fonts"), FilePath("/usr/share/fonts")]


@cache
def catalogue() -> dict[str, dict[str, FontFile]]:
    """Family -> style -> font. Of fonts with equal names the first found counts; broken files are passed over."""
    out: dict[str, dict[str, FontFile]] = {}
    for folder in font_folders():
        for path in _font_files(folder):
            for font in _read_names(path):
                out.setdefault(font.family, {}).setdefault(font.style, font)
    return dict(sorted(out.items(), key=lambda kv: kv[0].lower()))


def _font_files(folder: FilePath) -> list[FilePath]:
    """The font files of a folder; none of one that cannot be looked into."""
    try:
        return sorted(p for p in folder.rglob("*") if p.suffix.lower() in _SUFFIXES) if folder.is_dir() else []
    except OSError:
        return []


def _read_names(path: FilePath) -> list[FontFile]:
    try:
        blob = hb.Blob.from_file_path(str(path))
        out = []
        for index in range(min(hb.Face(blob).count or 1, 64)):
            face = hb.Face(blob, index)
            family = face.get_name(_FAMILY) or face.get_name(_LEGACY_FAMILY)
            style = face.get_name(_STYLE) or face.get_name(_LEGACY_STYLE) or "Regular"
            if family and face.glyph_count:
                out.append(FontFile(family[:80], style[:60], path, index))
        return out
    except (OSError, ValueError, RuntimeError, hb.HarfBuzzError):
        return []


def families() -> list[str]:
    """The names of all font families."""
    return list(catalogue())


def styles(family: str) -> list[str]:
    """The names of a family's styles."""
    return list(catalogue().get(family, {}))


def match(family: str, style: str) -> Match:
    """The wished font, the plainest style of its family, or the default family in its place."""
    known = catalogue().get(family)
    if known is None:
        fallback = catalogue().get(DEFAULT_FAMILY) or next(iter(catalogue().values()))
        return Match(_plainest(fallback), True)
    if style in known:
        return Match(known[style], False)
    return Match(_plainest(known), True)


def _plainest(styles_: dict[str, FontFile]) -> FontFile:
    for name in ("Regular", "Book", "Medium", "SemiBold"):
        if name in styles_:
            return styles_[name]
    return next(iter(styles_.values()))


@by_value("font faces", 32, lasting=True)
def face(path: FilePath, index: int) -> hb.Face:
    """The shaper's face of a font file."""
    return hb.Face(hb.Blob.from_file_path(str(path)), index)
