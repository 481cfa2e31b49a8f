"""Large things kept for the next frame: numbers and pictures that took long to work out."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Any


@dataclass
class Kept:
    """Values by key, least recently used last out, bounded by bytes.

    Keys may name objects by identity: an entry ``holds`` on to those, so that no id is used again while it is listed.
    """

    limit: int
    used: int = 0
    entries: OrderedDict[object, tuple[object, Any, int]] = field(default_factory=OrderedDict)
    asked: set[object] = field(default_factory=set)  # for and put in since ``forget_unused``

    def get(self, key: object) -> Any | None:
        hit = self.entries.get(key)
        if hit is None:
            return None
        self.asked.add(key)
        if self.used > self.limit // 2:  # until then nothing goes soon, and the order does not matter yet
            self.entries.move_to_end(key)
        return hit[1]

    def put(self, key: object, holds: object, value: Any, size: int) -> None:
        if key in self.entries:
            self.used -= self.entries.pop(key)[2]
        self.entries[key] = (holds, value, size)
        self.asked.add(key)
        self.used += size
        while self.used > self.limit and len(self.entries) > 1:
            gone, (_, _, size) = self.entries.popitem(last=False)
            self.used -= size
            self.asked.discard(gone)

    def forget_unused(self) -> None:
        """Drop what was not asked for since the last call."""
        for key in [k for k in self.entries if k not in self.asked]:
            self.used -= self.entries.pop(key)[2]
        self.asked = set()
