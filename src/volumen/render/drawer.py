"""The one way through a picture's instructions, for renderers that draw each kind in their own way."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable

from volumen.picture.instructions import Bitmap, FillPath, Item, Layer, Soft, StrokePath


class Drawer(ABC):
    """Draws items one after another."""

    def draw(self, items: Iterable[Item]) -> None:
        """Draw items, back to front."""
        for item in items:
            if isinstance(item, FillPath):
                self._fill(item)
            elif isinstance(item, StrokePath):
                self._stroke(item)
            elif isinstance(item, Layer):
                self._layer(item)
            elif isinstance(item, Bitmap):
                self._bitmap(item)
            else:
                self._soft(item)

    @abstractmethod
    def _fill(self, item: FillPath) -> None: ...

    @abstractmethod
    def _stroke(self, item: StrokePath) -> None: ...

    @abstractmethod
    def _layer(self, item: Layer) -> None: ...

    @abstractmethod
    def _bitmap(self, item: Bitmap) -> None: ...

    @abstractmethod
    def _soft(self, item: Soft) -> None: ...
