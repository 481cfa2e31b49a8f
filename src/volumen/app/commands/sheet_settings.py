"""The settings of the sheet: size by number or by name, unit, ground, bleed, resolution, and where the artwork stays."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QCheckBox, QDialog, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from volumen.app.commands.desk import Desk
from volumen.app.commands.sheet_preview import PlaceButtons, SheetPreview
from volumen.app.widgets.colours import ColourPanel, Swatch
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.rows import quiet_label
from volumen.app.widgets.segment import ListBox, segment
from volumen.app.widgets.units import LENGTH_UNIT
from volumen.model.limits import LIMITS
from volumen.model.make import empty_document
from volumen.model.nodes import Document, Sheet
from volumen.model.on_sheet import on_sheet
from volumen.model.sheet import FORMATS, PER_UNIT, format_of
from volumen.shading.paint import Colour

replace = msgspec.structs.replace
_WHITE = Colour(1.0, 1.0, 1.0)


class SheetSettings(QDialog):
    """``taken`` gets the document on its new sheet; for a ``fresh`` one nothing has to find its place."""

    def __init__(
        self, parent: QWidget, document: Document, picture: QImage, taken: Callable[[Document], None], fresh: bool = False,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.document, self.sheet, self.taken, self.fresh = document, document.sheet, taken, fresh
        self.setWindowTitle("New sheet" if fresh else "Sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.finished.connect(lambda _: LENGTH_UNIT.use(document.sheet.unit))
        self.preview = SheetPreview(document.sheet, picture)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 14, 16, 14)
        row.setSpacing(18)
        row.addWidget(self.preview)
        self.column = QVBoxLayout()
        self.column.setSpacing(8)
        row.addLayout(self.column, 1)
        self._size_rows()
        self._ground_rows()
        self.place = PlaceButtons()
        self.place.chosen.connect(self._show)
        self.scale = QCheckBox("scale the artwork with the sheet")
        self.scale.toggled.connect(self._show)
        self._place_rows()
        self.column.addStretch(1)
        self._buttons()
        self._show()

    # -- building

    def _size_rows(self) -> None:
        self.formats = ListBox()
        self.formats.setAccessibleName("usual sizes")
        self.formats.addItem("own size")
        for one in FORMATS:
            self.formats.addItem(f"{one.name}, {Sheet(*one.size, unit=one.unit).size_in_unit}")
        self.formats.activated.connect(self._take_format)
        self.upright, self.across = segment("upright", exclusive=True), segment("across", exclusive=True)
        for button in (self.upright, self.across):
            button.clicked.connect(self._turn)
        line = QHBoxLayout()
        line.addWidget(self.formats, 1)
        line.addWidget(self.upright)
        line.addWidget(self.across)
        self.column.addLayout(line)
        grid = QGridLayout()
        self.fields = {
            name: self._field(name, label)
            for name, label in (
                ("width", "sheet width"), ("height", "sheet height"), ("bleed", "bleed"), ("dpi", "resolution"),
            )
        }  # fmt: skip
        self.fields["dpi"].setToolTip("Pixels to the inch, on the printed sheet, of what becomes pixels")
        self.fields["bleed"].setToolTip("How far the artwork is printed beyond the edges that are cut")
        self.unit = ListBox()
        self.unit.setAccessibleName("unit of all lengths")
        self.unit.addItems(list(PER_UNIT))
        self.unit.activated.connect(lambda n: self._change(unit=list(PER_UNIT)[n]))
        cells = (("wide", "width"), ("high", "height"), ("bleed", "bleed"), ("pixels at", "dpi"))
        for k, (word, name) in enumerate(cells):
            grid.addWidget(quiet_label(word), k // 2, (k % 2) * 2)
            grid.addWidget(self.fields[name], k // 2, (k % 2) * 2 + 1)
        grid.addWidget(self.unit, 0, 4)
        grid.addWidget(quiet_label("dpi"), 1, 4)
        self.column.addLayout(grid)

    def _field(self, name: str, label: str) -> NumberField:
        low, high = LIMITS[f"Sheet.{name}"]
        is_length = name != "dpi"
        field = NumberField(label, "", 1, low, high, 1 if is_length else 0).set_length(is_length)
        field.setMinimumWidth(78)
        field.preview.connect(lambda v: self._change(**{name: v}))
        field.done.connect(lambda v: self._change(**{name: v}))
        return field

    def _ground_rows(self) -> None:
        line = QHBoxLayout()
        self.colours = ColourPanel(compact=True)
        self.clear = QCheckBox("clear ground")
        self.clear.clicked.connect(lambda on: self._change(ground=None if on else self.colours.colour))
        self.swatch = Swatch("ground colour")
        self.swatch.setCheckable(True)
        self.colours.show_colour(self.sheet.ground or _WHITE)
        self.colours.hide()
        self.swatch.toggled.connect(self.colours.setVisible)
        for signal in (self.colours.preview, self.colours.done):
            signal.connect(lambda c: self._change(ground=c))
        line.addWidget(quiet_label("ground"))
        line.addWidget(self.swatch)
        line.addWidget(self.clear)
        line.addStretch(1)
        self.column.addLayout(line)
        self.column.addWidget(self.colours)

    def _place_rows(self) -> None:
        line = QHBoxLayout()
        self.place_label = quiet_label("what stays where it is")
        line.addWidget(self.place_label)
        line.addWidget(self.place)
        line.addStretch(1)
        self.column.addLayout(line)
        self.column.addWidget(self.scale)

    def _buttons(self) -> None:
        line = QHBoxLayout()
        line.addStretch(1)
        leave = QPushButton("Leave it" if not self.fresh else "As it is")
        leave.clicked.connect(self.reject)
        self.take_button = QPushButton("Make this sheet" if self.fresh else "Use this sheet")
        self.take_button.setObjectName("main")
        self.take_button.setAutoDefault(False)  # Enter in a field belongs to the field
        leave.setAutoDefault(False)
        self.take_button.clicked.connect(self.accept)
        line.addWidget(leave)
        line.addWidget(self.take_button)
        self.column.addLayout(line)

    # -- choosing

    def begin_with(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self._show()

    def _change(self, **fields: object) -> None:
        self.sheet = replace(self.sheet, **fields)
        self._show()

    def _take_format(self, row: int) -> None:
        if row == 0:
            return
        one = FORMATS[row - 1]
        w, h = one.size
        if self.across.isChecked():
            w, h = h, w
        self._change(width=w, height=h, unit=one.unit)

    def _turn(self) -> None:
        small, large = sorted((self.sheet.width, self.sheet.height))
        w, h = (large, small) if self.across.isChecked() else (small, large)
        self._change(width=w, height=h)

    def _show(self) -> None:
        sheet = self.sheet
        LENGTH_UNIT.use(sheet.unit)
        for name, field in self.fields.items():
            field.show_value(getattr(sheet, name))
        found = format_of(sheet)
        self.formats.setCurrentIndex(0 if found is None else FORMATS.index(found) + 1)
        (self.across if sheet.width > sheet.height else self.upright).setChecked(True)
        self.unit.setCurrentText(sheet.unit)
        self.clear.setChecked(sheet.ground is None)
        self.swatch.setEnabled(sheet.ground is not None)
        if sheet.ground is not None:
            self.swatch.show_colour(sheet.ground)
        old = self.document.sheet
        resized = (sheet.width, sheet.height) != (old.width, old.height) and not self.fresh
        for widget in (self.place, self.place_label, self.scale):
            widget.setVisible(resized)
        self.preview.show_sheet(sheet, self.place.place, self.scale.isChecked())

    def result_document(self) -> Document:
        """The document on the sheet as it is set now."""
        return on_sheet(self.document, self.sheet, self.place.place, self.scale.isChecked())

    def accept(self) -> None:
        made = self.result_document()
        super().accept()
        if made.sheet != self.document.sheet:
            self.taken(made)


def show_sheet_settings(desk: Desk) -> None:
    """Change the sheet under the artwork, as one step."""

    def take(document: Document) -> None:
        desk.session.apply("change the sheet", document)
        desk.canvas.fit()

    png = desk.link.sheet_png()
    picture = QImage.fromData(png) if png else QImage()
    SheetSettings(desk.dialog_parent, desk.session.document, picture, take).open()


def ask_for_new_sheet(desk: Desk, before: Sheet, taken: Callable[[Document], None]) -> None:
    """A new sheet as large as the one before, unless the person wants another."""
    dialog = SheetSettings(desk.dialog_parent, empty_document(), QImage(), taken, fresh=True)
    dialog.begin_with(replace(before, ground=_WHITE))
    dialog.open()
