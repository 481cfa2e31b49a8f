"""The numbers of a form: its own parameters in the card that heads the recipe."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
from PySide6.QtWidgets import QCheckBox, QLabel, QPlainTextEdit, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.state.session import Session
from volumen.app.widgets.rows import labelled
from volumen.app.widgets.segment import ListBox
from volumen.app.widgets.slider import SliderRow
from volumen.edit.objects import set_fields, set_form
from volumen.geometry.affine import mean_scale
from volumen.geometry.fonts import families, match, styles
from volumen.model.catalogue.forms import FORM_ROWS, ON_PATH
from volumen.model.catalogue.rows import Choice, Number, Switch
from volumen.model.fitting import is_whole
from volumen.model.lengths import LENGTHS, is_length
from volumen.model.nodes import Document, Form, Node, RectangleForm, Shape, TextForm
from volumen.model.tree import world_of

replace = msgspec.structs.replace


class FormParameters(QWidget):
    """The rows of the form of what is selected; several objects with the same kind of form change together."""

    def __init__(self, session: Session, form: Form) -> None:
        super().__init__()
        self.session, self.kind = session, type(form)
        self.updates: list[Callable[[Form], None]] = []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(3)
        if isinstance(form, TextForm):
            self._text_rows()
        rows = FORM_ROWS[self.kind].controls
        if isinstance(form, TextForm) and form.path is not None:
            rows += ON_PATH
        for row in rows:
            self._row(row)
        if isinstance(form, RectangleForm):
            self._corner_rows()
        self.show_form(form)

    def _row(self, row: Number | Choice | Switch) -> None:
        if isinstance(row, Number):
            digits = 0 if is_whole(self.kind, row.field) else 1
            hard = row.hard_low, row.hard_high
            slider = SliderRow(row.label, row.low, row.high, row.unit, row.factor, *hard, digits=digits)
            slider.number.set_length(row.field in LENGTHS.get(self.kind, ()))
            slider.preview.connect(lambda v: self._set(row.field, v, False))
            slider.done.connect(lambda v: self._set(row.field, v, True))
            self.column.addWidget(slider)
            slider.number.refused.connect(self.session.say)
            self.updates.append(
                lambda form: slider.show_value(float(getattr(form, row.field)) * self._scale(row.field))
            )
        elif isinstance(row, Choice):
            line = labelled(row.label)
            box = ListBox()
            box.setAccessibleName(row.label)
            box.addItems(row.options)
            box.activated.connect(lambda n: self._set(row.field, row.options[n], True))
            line.addWidget(box, 1)
            self.column.addLayout(line)
            self.updates.append(lambda form: box.setCurrentText(str(getattr(form, row.field))))
        else:
            check = QCheckBox(row.label)
            check.clicked.connect(lambda on: self._set(row.field, on, True))
            self.column.addWidget(check)
            self.updates.append(lambda form: check.setChecked(bool(getattr(form, row.field))))

    def _corner_rows(self) -> None:
        check = QCheckBox("each corner its own radius")
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        sliders = []
        for k, name in enumerate(("left top", "right top", "right bottom", "left bottom")):
            slider = SliderRow(name, 0, 80, "", 1.0, 0.0, 1e6)
            slider.number.set_length()
            slider.preview.connect(lambda v, k=k: self._set_corner(k, v, False))
            slider.done.connect(lambda v, k=k: self._set_corner(k, v, True))
            column.addWidget(slider)
            sliders.append(slider)
        check.clicked.connect(
            lambda on: self._edit("corner radii", lambda f: replace(f, radii=(f.radius,) * 4 if on else None), True)
        )
        self.column.addWidget(check)
        self.column.addWidget(holder)

        def update(form: Form) -> None:
            assert isinstance(form, RectangleForm)
            check.setChecked(form.radii is not None)
            holder.setVisible(form.radii is not None)
            for slider, r in zip(sliders, form.radii or (form.radius,) * 4, strict=True):
                slider.show_value(r * self._scale("radius"), False)

        self.updates.append(update)

    def _set_corner(self, k: int, value: float, final: bool) -> None:
        def change(form: Any) -> Any:
            radii = list(form.radii or (form.radius,) * 4)
            radii[k] = value / self._scale("radius")
            return replace(form, radii=tuple(radii))

        self._edit("corner radii", change, final)

    def _text_rows(self) -> None:
        words = QPlainTextEdit()
        words.setAccessibleName("text")
        words.setFixedHeight(54)
        words.textChanged.connect(lambda: self._type(words))
        self.column.addWidget(words)
        line = labelled("font")
        family = ListBox()
        family.setAccessibleName("font")
        family.addItems(families())
        family.activated.connect(lambda n: self._set_family(family.itemText(n)))
        line.addWidget(family, 1)
        self.column.addLayout(line)
        line = labelled("style")
        style = ListBox()
        style.setAccessibleName("font style")
        style.activated.connect(lambda n: self._set("style", style.itemText(n), True))
        line.addWidget(style, 1)
        self.column.addLayout(line)
        missing = QLabel()
        missing.setWordWrap(True)
        missing.setStyleSheet(f"color: {theme.VERMILION};")
        self.column.addWidget(missing)

        def update(form: Form) -> None:
            assert isinstance(form, TextForm)
            if not words.hasFocus() and words.toPlainText() != form.text:
                words.blockSignals(True)
                words.setPlainText(form.text)
                words.blockSignals(False)
            if family.findText(form.family) < 0:
                family.insertItem(0, form.family)
            family.setCurrentText(form.family)
            style.clear()
            style.addItems(styles(form.family) or [form.style])
            style.setCurrentText(form.style)
            found = match(form.family, form.style)
            missing.setVisible(found.substitute)
            missing.setText(
                f"'{form.family} {form.style}' is not installed; shown in {found.file.family} {found.file.style}."
            )

        self.updates.append(update)

    def _type(self, words: QPlainTextEdit) -> None:
        text = words.toPlainText()[:20_000]
        s = self.session
        name = " ".join(text.split())[:40] or "text"
        document = set_fields(s.document, s.selection[:1], name=name)
        for node in s.nodes[:1]:
            if isinstance(node, Shape) and isinstance(node.form, TextForm) and node.form.text != text:
                s.preview(set_form(document, node.id, replace(node.form, text=text)))
                s.commit("type text")

    def _set_family(self, family: str) -> None:
        known = styles(family)
        self._edit(
            "change font",
            lambda f: replace(f, family=family, style=f.style if f.style in known or not known else known[0]), True,
        )  # fmt: skip

    def _scale(self, field: str, node: Node | None = None) -> float:
        """How much larger a number of the form is on the sheet: lengths are shown and taken as they are there."""
        shape = node or self.session.first
        if shape is None or not is_length(getattr(shape, "form", None), field):
            return 1.0
        return mean_scale(world_of(self.session.document, shape.id)) or 1.0

    def _set(self, field: str, value: Any, final: bool) -> None:
        document = self.session.document
        for node in self.session.nodes:
            if isinstance(node, Shape) and type(node.form) is self.kind:
                own = value / self._scale(field, node) if isinstance(value, float) else value
                document = set_form(document, node.id, replace(node.form, **{field: own}))
        self._show(document, f"change {field.replace('_', ' ')}", final)

    def _edit(self, label: str, change: Callable[[Any], Any], final: bool) -> None:
        document = self.session.document
        for node in self.session.nodes:
            if isinstance(node, Shape) and type(node.form) is self.kind:
                document = set_form(document, node.id, change(node.form))
        self._show(document, label, final)

    def _show(self, document: Document, label: str, final: bool) -> None:
        self.session.preview(document)
        if final:
            self.session.commit(label)
            if self.session.first is not None and isinstance(self.session.first, Shape):
                self.show_form(self.session.first.form)

    def show_form(self, form: Form) -> None:
        for update in self.updates:
            update(form)
