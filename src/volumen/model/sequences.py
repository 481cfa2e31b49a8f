"""Long rows of which an edit changes little: siblings in a tree, chunks of a picture.

Who makes a row from another says where they differ; whoever compares the two later needs not look.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import OrderedDict
from collections.abc import Sequence
from typing import Any

_BLOCKS = (1024, 64)
_LONG = 200  # shorter rows are compared as fast as looked up
_MOST = 48
_told: OrderedDict[int, tuple[tuple[Any, ...], tuple[Any, ...], int, int]] = OrderedDict()


def tell_ends(old: tuple[Any, ...], new: tuple[Any, ...], low: int, end: int) -> None:
    """Remember that ``new`` was made of ``old``, whose first ``low`` and last ``end`` members it has."""
    if len(new) >= _LONG:
        _told[id(new)] = (new, old, low, end)
        if len(_told) > _MOST:
            _told.popitem(last=False)


def same_ends(old: Sequence[object], new: Sequence[object]) -> tuple[int, int]:
    """How many objects are the same at the start, and at the end, of two rows: most edits touch few amid many.

    Rows of which it was told are known to agree at least so far; in others whole blocks are compared first, which for
    identical objects is as fast as comparing addresses.
    """
    if old is new:
        return len(new), 0
    high, m, n = min(len(old), len(new)), len(old), len(new)
    low, end = _known(old, new)
    for block in _BLOCKS:
        while low + end + block <= high and old[low : low + block] == new[low : low + block]:
            low += block
    while low + end < high and old[low] is new[low]:
        low += 1
    for block in _BLOCKS:
        while low + end + block <= high and old[m - end - block : m - end] == new[n - end - block : n - end]:
            end += block
    while low + end < high and old[m - 1 - end] is new[n - 1 - end]:
        end += 1
    return low, end


def _known(old: Sequence[object], new: Sequence[object]) -> tuple[int, int]:
    """What two rows surely share at their ends: one was made of the other, or both of a third."""
    made, other = _told.get(id(new)), _told.get(id(old))
    if made is None or made[0] is not new:
        return 0, 0
    if made[1] is old:
        return made[2], made[3]
    if other is not None and other[0] is old and other[1] is made[1]:
        return min(made[2], other[2]), min(made[3], other[3])
    return 0, 0


def in_order(old: Sequence[int], new: Sequence[int]) -> set[int]:
    """As many ids as can stay where they are when one row of distinct ids becomes another: the longest run of those
    in both whose order is the same (patience sorting)."""
    place = {i: k for k, i in enumerate(old)}
    both = [i for i in new if i in place]
    ends: list[int] = []  # the lowest place at which a run of each length can end
    last: list[int] = []  # and the number in ``both`` that ends it
    before = [-1] * len(both)
    for k, i in enumerate(both):
        n = bisect_left(ends, place[i])
        ends[n : n + 1], last[n : n + 1] = [place[i]], [k]
        before[k] = last[n - 1] if n else -1
    stays, k = set(), last[-1] if last else -1
    while k >= 0:
        stays.add(both[k])
        k = before[k]
    return stays
