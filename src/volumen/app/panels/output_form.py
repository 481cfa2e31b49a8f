"""One output: what of the artwork is written, in which form."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from volumen.app.widgets.number import NumberField
from volumen.app.widgets.rows import quiet_label
from volumen.app.widgets.segment import ListBox, narrow, segment
from volumen.model.limits import LIMITS
from volumen.model.outputs import BITMAPS, Output
from volumen.stock.stocks import StockView

_KINDS = {"png": "PNG", "jpg": "JPEG", "webp": "WebP", "tif": "TIFF", "svg": "SVG", "pdf": "PDF"}
_OF = {"sheet": "the sheet", "selection": "the selection", "each object": "each object, one file each"}
# The ticks: which field each sets, its words, what it is for, and which formats have it.
_TICKS = (
    ("clear", "clear ground", "Without the colour of the sheet", tuple(_KINDS)),
    ("flat", "without light", "Light and finish are left out", tuple(_KINDS)),
    ("bleed", "with bleed", "The artwork beyond the edges as far as the sheet's bleed reaches", tuple(_KINDS)),
    ("marks", "with marks", "Where the corners are cut, and crosses to lay plates on one another", tuple(_KINDS)),
    ("deep", "16 bit", "Finer steps, for pictures that are worked on further", ("png", "tif")),
    ("stock", "on the stock", "A picture of it on the stock that is chosen on the left, in its colour", BITMAPS),
    (
        "inks", "for the press", "The press that is proofed for: TIFF in its inks, PDF/X-4 with its profile; spot inks as "
        "plates of their own", ("tif", "pdf"),
    ),
    (
        "pure_vector", "keep vector", "Shadows, glows and relief as nested outlines; how close they come is said afterwards",
        ("svg", "pdf"),
    ),
    (
        "text", "words as text", "Words in one colour stay text that can be found and copied, with their letters in the "
        "file; otherwise they are outlines", ("pdf",),
    ),
)  # fmt: skip


class OutputForm(QWidget):
    """Shows and changes an ``output``; ``changed`` tells after each change."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.output = Output()
        self.stock_chosen: Callable[[], StockView | None] = lambda: None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        self.formats: dict[str, QToolButton] = {}
        grid = QGridLayout()
        grid.setSpacing(3)
        for k, (kind, word) in enumerate(_KINDS.items()):
            button = segment(word, exclusive=True, wide=True)
            button.clicked.connect(lambda _=False, kind=kind: self.set(kind=kind))
            self.formats[kind] = button
            grid.addWidget(button, k // 3, k % 3)
        column.addLayout(grid)
        self.of = narrow(ListBox())
        self.of.setAccessibleName("what is exported")
        self.of.addItems(list(_OF.values()))
        self.of.activated.connect(lambda n: self.set(of=list(_OF)[n]))
        column.addWidget(self.of)
        column.addLayout(self._sizes())
        self.ticks: dict[str, QCheckBox] = {}
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        for k, (name, words, tip, _) in enumerate(_TICKS):
            tick = QCheckBox(words)
            tick.setToolTip(tip)
            tick.clicked.connect(lambda on, name=name: self._ticked(name, on))
            self.ticks[name] = tick
            grid.addWidget(tick, k // 2, k % 2)
        column.addLayout(grid)
        self._show()

    def _sizes(self) -> QHBoxLayout:
        line = QHBoxLayout()
        self.by = narrow(ListBox())
        self.by.setAccessibleName("size of pictures")
        self.by.addItems(["width", "to the inch"])
        self.by.setFixedWidth(96)
        self.by.activated.connect(lambda n: self.set(width=0 if n else 1600))
        self.by_label = quiet_label("pixels at")
        low, high = LIMITS["Output.width"]
        self.width_field = NumberField("width in pixels", " px", 10, max(low, 1), high, 0)
        self.dpi_field = NumberField("resolution of what becomes pixels", " dpi", 10, *LIMITS["Output.dpi"], 0)
        self.quality_field = NumberField("quality", " %", 5, 1, 100, 0)
        self.quality_field.setToolTip("100 % loses nothing in WebP and hardly anything in JPEG")
        self.width_field.done.connect(lambda v: self.set(width=round(v)))
        self.dpi_field.done.connect(lambda v: self.set(dpi=v))
        self.quality_field.done.connect(lambda v: self.set(quality=round(v)))
        for widget in (self.by, self.by_label, self.width_field, self.dpi_field, self.quality_field):
            line.addWidget(widget)
        return line

    def set(self, **fields: object) -> None:
        self.show_output(replace(self.output, **fields))
        self.changed.emit()

    def show_output(self, output: Output) -> None:
        self.output = output
        self._show()

    def _ticked(self, name: str, on: bool) -> None:
        if name == "stock":
            self.set(stock=self.stock_chosen() if on else None)
        else:
            self.set(**({"depth": 16 if on else 8} if name == "deep" else {name: on}))

    def _show(self) -> None:
        o = self.output
        self.formats[o.kind].setChecked(True)
        self.of.setCurrentText(_OF[o.of])
        bitmap = o.kind in BITMAPS
        self.by.setCurrentIndex(0 if o.width else 1)
        self.by.setVisible(bitmap)
        self.by_label.setVisible(o.kind == "pdf")
        self.width_field.setVisible(bitmap and o.width > 0)
        self.dpi_field.setVisible(o.kind == "pdf" or (bitmap and o.width == 0))
        self.quality_field.setVisible(o.kind in ("jpg", "webp"))
        self.width_field.show_value(o.width or 1600)
        self.dpi_field.show_value(o.dpi)
        self.quality_field.show_value(o.quality)
        for name, _, _, kinds in _TICKS:
            self.ticks[name].setVisible(o.kind in kinds)
            self.ticks[name].setChecked(o.depth == 16 if name == "deep" else bool(getattr(o, name)))


def described(output: Output) -> str:
    """An output in a few words, as a name for it."""
    words = [_KINDS[output.kind]]
    if output.kind in BITMAPS:
        words.append(f"{output.width} px" if output.width else f"{output.dpi:.0f} dpi")
    if output.of != "sheet":
        words.append(output.of)
    words += [w for name, w, _, kinds in _TICKS if name != "deep" and output.kind in kinds and getattr(output, name)]
    return ", ".join(words)
