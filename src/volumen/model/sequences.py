"""Long sequences of which an edit changes little: siblings in a tree, chunks of a picture."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence

_BLOCKS = (1024, 64)


def same_ends(old: Sequence[object], new: Sequence[object]) -> tuple[int, int]:
    """How many objects are the same at the start, and at the end, of two sequences: most edits touch few amid many.

    Whole blocks are compared first, which for identical objects is as fast as comparing addresses.
    """
    if old is new:
        return len(new), 0
    high, m, n = min(len(old), len(new)), len(old), len(new)
    low = end = 0
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
