"""What each piece of a drawing is, told from its shape, size, colour and place."""

from __future__ import annotations

import math
from collections import Counter

from volumen.edit.first_light.pieces import Piece
from volumen.model.nodes import Sheet

# Lengths are shares of the sheet's diagonal; lightness is that of OKLab.
_HAIR = 0.006
_OUTLINE = 0.02
_SMALL_FEATURE = 0.12  # of what carries it
_DARKER = 0.28  # than what carries it: an eye, a mouth, a window
_ALIKE_HUE = 28.0
_ALIKE_LIGHTNESS = 0.16


def tell_roles(pieces: list[Piece], sheet: Sheet) -> None:
    """Give every piece its role; those that are alike get the same one.

    ``ground`` covers the sheet, ``tone`` is light or shade that was drawn in, ``lit`` has light already, ``hair`` and
    ``outline`` are too thin to have volume, ``feature`` is sunk into what carries it; the others have volume:
    ``round``, ``long``, ``plump``, ``plate``, ``frame``, ``text``, ``sheet``.
    """
    for piece in pieces:
        piece.role = _role(piece, sheet)
    _alike(pieces)


def touches(piece: Piece, sheet: Sheet) -> int:
    """How many edges of the sheet a piece reaches."""
    l, t, r, b = piece.area.bounds
    near = max(sheet.width, sheet.height) * 2e-3
    return sum((l <= near, t <= near, r >= sheet.width - near, b >= sheet.height - near))


def _role(p: Piece, sheet: Sheet) -> str:
    whole, diagonal = sheet.width * sheet.height, math.hypot(sheet.width, sheet.height)
    area, under = p.size**2, p.on
    if p.full > 0.9 and (area > 0.55 * whole or (touches(p, sheet) >= 3 and area > 0.2 * whole)):
        return "ground"
    if p.lit:
        return "lit"
    if p.see_through or p.fades:
        return "tone"
    if p.text:
        return "text"
    if p.thick < _HAIR * diagonal:
        return "hair"
    if p.lch[0] < 0.3 and p.holed and p.thick < _OUTLINE * diagonal:
        return "outline"
    if under is not None and under.role != "ground":
        if p.inside > 0.85 and _drawn_tone(p, under) and area < 0.6 * under.size**2:
            return "tone"
        if p.inside > 0.9 and p.lch[0] < under.lch[0] - _DARKER and area < _SMALL_FEATURE * under.size**2:
            return "feature"
    if p.holed and p.convex < 0.72:
        return "frame"
    if p.full > 0.93 and p.compact < 0.85:
        return "plate"
    if p.compact > 0.8 and p.convex > 0.93:
        return "round"
    if p.long > 2.6 and p.convex > 0.75:
        return "long"
    return "plump" if p.convex > 0.88 and p.compact > 0.55 else "sheet"


def _drawn_tone(p: Piece, under: Piece) -> bool:
    """Whether a piece is a lighter or darker tone of what carries it: light and shade that somebody drew."""
    turn = abs((p.lch[2] - under.lch[2] + 180) % 360 - 180)
    near = turn < _ALIKE_HUE or min(p.lch[1], under.lch[1]) < 0.03
    return near and abs(p.lch[0] - under.lch[0]) < _ALIKE_LIGHTNESS


def _alike(pieces: list[Piece]) -> None:
    """Windows, beads and letters: pieces of one colour and size on the same ground are the same thing."""
    groups: dict[tuple[object, ...], list[Piece]] = {}
    for p in pieces:
        if p.role in ("ground", "lit"):
            continue
        key = (id(p.on), *(round(v, 2) for v in p.lch[:2]), round(4 * math.log(p.size)), round(4 * math.log(p.long)))
        groups.setdefault(key, []).append(p)
    for group in groups.values():
        if len(group) > 2:
            ((most, _),) = Counter(p.role for p in group).most_common(1)
            for p in group:
                p.role = most
