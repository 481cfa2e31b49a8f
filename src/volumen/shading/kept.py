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

    def get(self, key: object) -> Any | None:
        hit = self.entries.get(key)
        if hit is None:
            return None
        if self.used > self.limit // 2:  # until then nothing goes soon, and the order does not matter yet
            self.entries.move_to_end(key)
        return hit[1]

    def put(self, key: object, holds: object, value: Any, size: int) -> None:
        if key in self.entries:
            self.used -= self.entries.pop(key)[2]
        self.entries[key] = (holds, value, size)
        self.used += size
        while self.used > self.limit and len(self.entries) > 1:
            self.used -= self.entries.popitem(last=False)[1][2]
