"""One way to keep what was dear to make: caches with a name, a bound and figures, emptied together.

A cache keyed by identities holds on to the objects that a key names, so no id is used again while it is listed. What is
keyed by values goes through ``by_value``. ``figures`` lists all that are alive. ``forget_all`` empties those that do
not last: those that count their entries; those that count bytes ``forget_unused``, unless told otherwise.
"""

from __future__ import annotations

import ctypes
import gc
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from contextlib import suppress
from functools import lru_cache
from typing import Any, Generic, NamedTuple, ParamSpec, TypeVar
from weakref import WeakSet

V = TypeVar("V")
P = ParamSpec("P")
T = TypeVar("T")
K = TypeVar("K", bound=Hashable)


class Figures(NamedTuple):
    """How full a cache is, and how many values were made for it since it was new or emptied."""

    name: str
    entries: int
    bytes: int  # 0 where entries are counted instead
    made: int


class _Entry(Generic[V]):
    __slots__ = ("holds", "size", "turn", "value")

    def __init__(self, holds: object, value: V, size: int, turn: int) -> None:
        self.holds, self.value, self.size, self.turn = holds, value, size, turn


class Cache(Generic[V]):
    """Values by key while there is room: the oldest go first, or under a bound in bytes the least recently used.

    ``most`` bounds the entries, ``most_bytes`` the sum of the sizes that they are put in with.
    """

    def __init__(self, name: str, most: int = 50_000, most_bytes: int = 0, lasting: bool | None = None) -> None:
        self.name = name
        self.most = most
        self.most_bytes = most_bytes
        self.lasting = most_bytes > 0 if lasting is None else lasting
        self.bytes = 0
        self.made = 0
        self._entries: OrderedDict[object, _Entry[V]] = OrderedDict()
        self._turn = 0  # begun by ``forget_unused``; an entry knows in which it was asked for, or put in, at last
        _caches.add(self)

    def get(self, key: object) -> V | None:
        """The value of a key; None if it is not kept."""
        hit = self._entries.get(key)
        if hit is None:
            return None
        hit.turn = self._turn  # noted there: to find a long key once more takes as long as to find it
        if self.most_bytes and self.bytes > self.most_bytes // 2:  # until then nothing goes soon, and order counts not
            self._entries.move_to_end(key)
        return hit.value

    def put(self, key: object, holds: object, value: V, size: int = 0) -> V:
        """Keep a value under a key that names the objects in ``holds`` by identity; gives the value back."""
        entries = self._entries
        if key in entries:
            self.bytes -= entries.pop(key).size
        entries[key] = _Entry(holds, value, size, self._turn)
        self.made += 1
        if not self.most_bytes:
            if len(entries) > self.most:
                entries.popitem(last=False)
            return value
        self.bytes += size
        while self.bytes > self.most_bytes and len(entries) > 1:
            self.bytes -= entries.popitem(last=False)[1].size
        return value

    def clear(self) -> None:
        """Forget everything."""
        self._entries.clear()
        self.bytes = self.made = 0

    def begin_use(self) -> None:
        """From now on it counts what is asked for, for ``forget_unused``."""
        self._turn += 1

    def forget_unused(self) -> None:
        """Drop what was not asked for since the last call, or since ``begin_use``."""
        for key in [k for k, e in self._entries.items() if e.turn != self._turn]:
            self.bytes -= self._entries.pop(key).size
        self._turn += 1

    def figures(self) -> Figures:
        """How full it is."""
        return Figures(self.name, len(self._entries), self.bytes, self.made)

    def __len__(self) -> int:
        return len(self._entries)

    def __contains__(self, key: object) -> bool:
        return key in self._entries


MixedCache = Cache[Any]  # of values of several kinds
_caches: WeakSet[Cache[Any]] = WeakSet()
_by_value: dict[str, tuple[Any, bool]] = {}  # the register of the functions below, and whether they last


def by_value(name: str, most: int, lasting: bool = False) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Keeps the last ``most`` results of a function of hashable values. ``lasting`` ones, which are few, dear and
    seldom change, such as fonts, are not emptied by ``forget_all``."""

    def kept(function: Callable[P, T]) -> Callable[P, T]:
        wrapped = lru_cache(maxsize=most)(function)
        _by_value[name] = (wrapped, lasting)
        return wrapped  # type: ignore[return-value]  # its parameters are the function's

    return kept


def by_values(name: str, most: int) -> Callable[[Callable[[list[K]], list[T]]], Callable[[Sequence[K]], list[T]]]:
    """Keeps about the last ``most`` results of a function that answers many hashable questions at once: it is asked
    for those that are new, each once."""
    known: MixedCache = Cache(name, most)

    def kept(function: Callable[[list[K]], list[T]]) -> Callable[[Sequence[K]], list[T]]:
        def answers(asked: Sequence[K]) -> list[T]:
            found: dict[K, Any] = {k: known.get(k) for k in asked}
            new = [k for k, v in found.items() if v is None]
            if new:
                found.update((k, known.put(k, None, v)) for k, v in zip(new, function(new), strict=True))
            return [found[k] for k in asked]

        return answers

    return kept


def forget_all() -> None:
    """Empty all caches that do not last, which hold much that is no longer in the document.

    What stays the same needs none of it: its chunks are remembered from the last composition.
    """
    for cache in list(_caches):
        if not cache.lasting:
            cache.clear()
    for wrapped, lasting in _by_value.values():
        if not lasting:
            wrapped.cache_clear()


def give_back() -> None:
    """Return memory that nothing holds any more to the system."""
    gc.collect()
    with suppress(OSError, AttributeError):  # other C libraries give memory back by themselves
        ctypes.CDLL("libc.so.6").malloc_trim(0)


def figures() -> list[Figures]:
    """Of all caches, by name."""
    out = [c.figures() for c in list(_caches)]
    for name, (wrapped, _) in _by_value.items():
        told = wrapped.cache_info()
        out.append(Figures(name, told.currsize, 0, told.misses))
    return sorted(out)
