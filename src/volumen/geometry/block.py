"""The walls of an outline that has depth, as one sees them from the front: exact, closed, without gaps or overlaps.

The outline is cut where it runs along the depth, so that each arc shows its wall or hides others. Across the depth it
falls into slabs between the ends of arcs; in each slab arcs lie behind one another in a fixed order, and the wall of
an arc reaches back to the depth or to where the line behind it next enters the front. No boolean is needed.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.block_arcs import Arcs, arcs_of
from volumen.geometry.cubics import Ints, root_between
from volumen.geometry.curve import derivative, evaluate, part
from volumen.geometry.depth import Depth
from volumen.geometry.path import Contour, Path, joined, line
from volumen.geometry.tiny_walls import with_tiny_joined
from volumen.geometry.wall import Behind, Wall, ends_of

_GRID = 16  # places in a slab at which a back edge is compared with what lies before it
_NEWTON = 8
_BATCH = 20_000  # arcs in slabs that are compared at a time
_MOST_CROSSED = 400_000  # slabs by arcs: a word has some hundreds to thousands


class _Cell(NamedTuple):
    """The part of a wall in one slab: its run, the slab, from and to where on its arc, and what ends it there: the
    back edge (``before`` < 0) or an arc that lies before it, from and to where."""

    run: int
    slab: int
    arc: int
    start: float
    end: float
    before: int
    before_start: float
    before_end: float


def walls(path: Path, depth: Depth, smooth: float = 12.0) -> list[Wall]:
    """The walls of an outline that are seen. It must be nonzero filled and clean, its outer contours clockwise.

    Arcs that join within ``smooth`` degrees are one wall; tiny walls belong to a neighbour. None for what is so
    intricate that it would take minutes and all memory.
    """
    arcs = arcs_of(path, depth, smooth)
    if arcs is None or arcs.crossed > _MOST_CROSSED:
        return []
    by_run: dict[int, list[_Cell]] = {}
    for cell in _cells(arcs, depth):
        by_run.setdefault(cell.run, []).append(cell)
    made = [_wall(sorted(cells, key=lambda c: c.slab), arcs, depth) for cells in by_run.values()]
    box = path.hull() or (0.0, 0.0, 0.0, 0.0)
    return with_tiny_joined(made, max(box[2] - box[0], box[3] - box[1]))


def _cells(arcs: Arcs, depth: Depth) -> list[_Cell]:
    """What each slab shows of the wall of each arc in it."""
    arc, slab, t_start, t_end = arcs.in_slabs()
    middle = (arcs.critical[slab] + arcs.critical[slab + 1]) / 2
    low, high = np.minimum(t_start, t_end), np.maximum(t_start, t_end)
    t = root_between(depth.over(arcs.segments[arc], middle), low, high)
    order = np.lexsort((depth.uv(evaluate(arcs.segments[arc], t))[1], slab))
    arc, slab, t_start, t_end = arc[order], slab[order], t_start[order], t_end[order]
    leaves = np.flatnonzero(arcs.sign[arc] < 0)
    following = np.minimum(leaves + 1, len(arc) - 1)
    has = (leaves + 1 < len(arc)) & (slab[following] == slab[leaves]) & (arcs.sign[arc[following]] > 0)
    crossings: dict[int, tuple[bool, list[tuple[float, float]]]] = {}
    rows, ahead = leaves[has], following[has]
    for k in range(0, len(rows), _BATCH):
        some = slice(k, k + _BATCH)
        crossings |= _crossings(arcs, depth, arc, slab, t_start, t_end, rows[some], ahead[some])
    out: list[_Cell] = []
    for k, j in enumerate(leaves.tolist()):
        own = int(arc[j])
        run = int(arcs.run[own])
        if not has[k]:
            out.append(_Cell(run, int(slab[j]), own, float(t_start[j]), float(t_end[j]), -1, 0.0, 0.0))
            continue
        f = int(following[k])
        shows, cuts = crossings[j]
        a, b = float(t_start[j]), float(t_start[f])
        for to, before_to in [*cuts, (float(t_end[j]), float(t_end[f]))]:
            if abs(to - a) > 1e-12:
                out.append(_Cell(run, int(slab[j]), own, a, to, -1 if shows else int(arc[f]), b, before_to))
            a, b, shows = to, before_to, not shows
    return out


def _crossings(
    arcs: Arcs, depth: Depth, arc: Ints, slab: Ints, t_start: Floats, t_end: Floats, leaves: Ints, enters: Ints
) -> dict[int, tuple[bool, list[tuple[float, float]]]]:
    """By the place of an arc in its slab: whether its back edge shows at first, and where the back edge and the arc
    before it cross, on both."""
    if not len(leaves):
        return {}
    share = np.linspace(0, 1, _GRID + 1)
    first, last = arcs.critical[slab[leaves]], arcs.critical[slab[leaves] + 1]
    u = first[:, None] + (last - first)[:, None] * share

    def over_grid(rows: Ints) -> tuple[Floats, Floats]:
        own = np.repeat(arc[rows], _GRID + 1)
        low = np.repeat(np.minimum(t_start[rows], t_end[rows]), _GRID + 1)
        high = np.repeat(np.maximum(t_start[rows], t_end[rows]), _GRID + 1)
        t = root_between(depth.over(arcs.segments[own], u.reshape(-1)), low, high).reshape(u.shape)
        t[:, 0], t[:, -1] = t_start[rows], t_end[rows]
        return t, depth.uv(evaluate(arcs.segments[own], t.reshape(-1)))[1].reshape(u.shape)

    (t_own, v_own), (t_next, v_next) = over_grid(leaves), over_grid(enters)
    room = v_next - v_own - depth.far
    shows = room > 0
    row, k = np.nonzero(shows[:, 1:] != shows[:, :-1])
    q = room[row, k] / (room[row, k] - room[row, k + 1])
    x = t_own[row, k] + (t_own[row, k + 1] - t_own[row, k]) * q
    y = t_next[row, k] + (t_next[row, k + 1] - t_next[row, k]) * q
    x, y = _meet(arcs.segments[arc[leaves[row]]], arcs.segments[arc[enters[row]]], depth, x, y)
    found: dict[int, tuple[bool, list[tuple[float, float]]]] = {
        int(j): (bool(shows[n, 0]), []) for n, j in enumerate(leaves)
    }
    for n, a, b in zip(row.tolist(), x.tolist(), y.tolist(), strict=True):
        found[int(leaves[n])][1].append((a, b))
    return found


def _meet(own: Floats, other: Floats, depth: Depth, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Where the back edges of segments meet other segments, from near parameters, by Newton's method."""
    for _ in range(_NEWTON if len(x) else 0):
        gap = evaluate(other, y) - depth.back(evaluate(own, x))
        p, q = derivative(own, x) * depth.scale, derivative(other, y)
        det = -p[:, 0] * q[:, 1] + p[:, 1] * q[:, 0]
        det = np.where(np.abs(det) < 1e-12, np.inf, det)
        x = np.clip(x + (-gap[:, 0] * q[:, 1] + gap[:, 1] * q[:, 0]) / det, 0, 1)
        y = np.clip(y + (p[:, 0] * gap[:, 1] - p[:, 1] * gap[:, 0]) / det, 0, 1)
    return x, y


# -- putting walls together


class _Piece(NamedTuple):
    """A piece of a segment of the outline, at the front or at the back."""

    arc: int
    start: float
    end: float
    at_back: bool


def _wall(cells: list[_Cell], arcs: Arcs, depth: Depth) -> Wall:
    """The wall of a run of arcs: its cells in their order across the depth."""
    gap = next((k for k in range(1, len(cells)) if cells[k].slab - cells[k - 1].slab > 1), 0)
    cells = cells[gap:] + cells[:gap]  # one that runs over where the angle begins anew starts behind its gap
    low = _merged([_Piece(arcs.source(c.arc), c.start, c.end, False) for c in cells], arcs)
    top = _merged(
        [
            _Piece(arcs.source(c.arc), c.start, c.end, True)
            if c.before < 0
            else _Piece(arcs.source(c.before), c.before_start, c.before_end, False)
            for c in cells
        ],
        arcs,
    )
    chain: list[Floats] = []
    behind: list[Behind] = []
    around = [*((p, False) for p in low), *((p, True) for p in reversed(top))]
    for k, (p, back) in enumerate(around):
        piece = _points(p, arcs, depth)[:: -1 if back else 1].copy()
        if _joined_to(chain, piece):
            behind.append(Behind(_corner(arcs, *around[k - 1]), False, _from_front(chain[-1], depth)))
        chain.append(piece)
        if p.at_back:
            behind.append(Behind(int(arcs.number[p.arc]), True, piece))
    if np.abs(chain[-1][-1] - chain[0][0]).max() > _JOINT:
        chain.append(line(chain[-1][-1], chain[0][0]))
        behind.append(Behind(_corner(arcs, low[0], True), False, _from_front(chain[-1], depth)))
    chain[-1][-1] = chain[0][0]
    edge, normals = _facing(low, arcs)
    return Wall(Path((Contour(joined(chain), True),)), edge, normals, _without_seams(behind))


def _from_front(side: Floats, depth: Depth) -> Floats:
    """A line along the depth, begun at its end nearer to the front."""
    first, last = depth.uv(side[[0, -1]])[1].tolist()
    return side if first < last else side[::-1]


def _corner(arcs: Arcs, p: _Piece, at_start: bool) -> int:
    """The number of the segment that begins where a piece ends (or starts), or that the piece is of."""
    t = p.start if at_start else p.end
    return int(arcs.after[p.arc] if t > 1 - 1e-9 else arcs.number[p.arc])


def _without_seams(behind: list[Behind]) -> tuple[Behind, ...]:
    """Edges without those where a wall that goes all round meets itself."""
    sides = [ends_of(b.points, 6) for b in behind if not b.at_back]
    return tuple(b for b in behind if b.at_back or sides.count(ends_of(b.points, 6)) < 2)


_JOINT = 1e-6


def _joined_to(chain: list[Floats], piece: Floats) -> bool:
    """Let a piece begin exactly where the chain ends, or after a line along the depth; whether there is one."""
    if not chain:
        return False
    end = chain[-1][-1]
    if np.abs(end - piece[0]).max() > _JOINT:
        chain.append(line(end, piece[0].copy()))
        return True
    piece[0] = end
    return False


def _merged(pieces: list[_Piece], arcs: Arcs) -> list[_Piece]:
    """Pieces of which one goes on where the last one ends become one."""
    out: list[_Piece] = []
    for p in pieces:
        last = out[-1] if out else None
        if last is not None and (last.arc, last.at_back) == (p.arc, p.at_back) and abs(last.end - p.start) < 1e-12:
            out[-1] = last._replace(end=p.end)
        else:
            out.append(p)
    return out


def _points(p: _Piece, arcs: Arcs, depth: Depth) -> Floats:
    piece = part(arcs.segments[p.arc], p.start, p.end)
    return depth.back(piece) if p.at_back else piece


def _facing(low: list[_Piece], arcs: Arcs) -> tuple[Floats, Floats]:
    """Places along a front edge and the normals out of it there."""
    at, normals = [], []
    for p in low:
        t = np.linspace(p.start, p.end, 9)
        segments = np.repeat(arcs.segments[p.arc][None], len(t), axis=0)
        d = derivative(segments, np.clip(t, 1e-4, 1 - 1e-4))
        size = np.hypot(d[:, 0], d[:, 1])
        at.append(evaluate(segments, t)[size > 1e-12])
        normals.append((np.stack([d[:, 1], -d[:, 0]], axis=1) / np.maximum(size, 1e-12)[:, None])[size > 1e-12])
    return np.concatenate(at), np.concatenate(normals)
