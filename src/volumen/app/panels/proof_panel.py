"""The checks and the outputs of the Proof stage."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from volumen.app import theme
from volumen.app.engine.export_job import ExportJob
from volumen.app.engine.folders import home
from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.asking import ask_save_name
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.segment import segment
from volumen.formats.check import Finding, check
from volumen.formats.options import ExportOptions


class ProofPanel(QWidget):
    """Checks (click to go there) and outputs (format, size, ground, progress, cancel)."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.job: ExportJob | None = None
        self.findings: list[Finding] = []
        self.setObjectName("side")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 12)
        column.setSpacing(7)
        column.addWidget(_heading("CHECKS"))
        self.summary = QLabel()
        self.summary.setWordWrap(True)
        column.addWidget(self.summary)
        self.list = QListWidget()
        self.list.setStyleSheet(
            f"QListWidget {{ background: {theme.CARD}; border: 1px solid {theme.EDGE}; border-radius: 6px; }}"
        )
        self.list.setWordWrap(True)
        self.list.setAccessibleName("checks")
        self.list.itemClicked.connect(self._go)
        column.addWidget(self.list, 1)
        column.addWidget(_heading("OUTPUT"))
        self._build_output(column)
        session.on((News.DOCUMENT, News.STAGE), self.refresh)

    def _build_output(self, column: QVBoxLayout) -> None:
        row = QHBoxLayout()
        self.formats: dict[str, QToolButton] = {}
        for suffix in ("png", "svg", "pdf"):
            button = segment(suffix.upper(), exclusive=True)
            button.clicked.connect(self._format_changed)
            self.formats[suffix] = button
            row.addWidget(button)
        self.formats["png"].setChecked(True)
        row.addStretch(1)
        column.addLayout(row)
        grid = QGridLayout()
        self.width_field = NumberField("width in pixels", " px", 10, 1, 30000, 0)
        self.width_field.show_value(1600)
        self.dpi_field = NumberField("resolution of what becomes pixels", " dpi", 10, 36, 1200, 0)
        self.dpi_field.show_value(300)
        self.width_label, self.dpi_label = _quiet("width"), _quiet("pixels at")
        grid.addWidget(self.width_label, 0, 0)
        grid.addWidget(self.width_field, 0, 1)
        grid.addWidget(self.dpi_label, 1, 0)
        grid.addWidget(self.dpi_field, 1, 1)
        column.addLayout(grid)
        self.clear_ground = QCheckBox("clear ground")
        self.flat = QCheckBox("flat, without light")
        column.addWidget(self.clear_ground)
        column.addWidget(self.flat)
        self.pure = QCheckBox("keep vector: soft light as stepped shapes")
        self.pure.setToolTip("Shadows, glows and relief as nested outlines; how close they come is said afterwards")
        self.pure.clicked.connect(self._say_purity)
        column.addWidget(self.pure)
        self.note = _quiet("")
        self.note.setWordWrap(True)
        column.addWidget(self.note)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.hide()
        column.addWidget(self.bar)
        row = QHBoxLayout()
        self.export_button = QPushButton("Export …")
        self.export_button.setObjectName("main")
        self.export_button.clicked.connect(self.choose)
        self.cancel_button = QPushButton("Cancel")
        self.cancel_button.clicked.connect(self.cancel)
        self.cancel_button.hide()
        row.addWidget(self.export_button, 1)
        row.addWidget(self.cancel_button)
        column.addLayout(row)
        self._format_changed()

    @property
    def suffix(self) -> str:
        return next(s for s, b in self.formats.items() if b.isChecked())

    def _format_changed(self) -> None:
        for widget in (self.width_label, self.width_field):
            widget.setVisible(self.suffix == "png")
        for widget in (self.dpi_label, self.dpi_field):
            widget.setVisible(self.suffix == "pdf")
        self.pure.setVisible(self.suffix != "png")
        self._say_purity()

    def refresh(self) -> None:
        if self.session.stage != Stage.PROOF or self.session.history.in_gesture:
            return
        self.findings = check(self.session.document)
        self.list.clear()
        for finding in self.findings:
            item = QListWidgetItem(f"{finding.name}\n{finding.message}")
            icon = "triangle-alert" if finding.level == "warning" else "diamond"
            item.setIcon(theme.icon(icon, theme.VERMILION if finding.level == "warning" else theme.SOFT_INK))
            item.setData(Qt.ItemDataRole.UserRole, finding.node)
            self.list.addItem(item)
        warnings = sum(f.level == "warning" for f in self.findings)
        changes = len(self.findings) - warnings
        self.summary.setText(
            f"{warnings} to look at, {changes} that change form on export" if self.findings
            else "Nothing to report: everything stays vector."
        )  # fmt: skip
        self._say_purity()

    def _say_purity(self) -> None:
        exports = [f for f in self.findings if f.level == "export"]
        if self.suffix == "png":
            self.note.setText("8-bit sRGB with its profile, dithered once.")
        elif self.pure.isChecked():
            self.note.setText(
                "Soft light becomes stepped shapes; grain and pictures blurred in colours stay as they are."
            )
        elif not exports:
            self.note.setText("Everything stays vector.")
        elif self.suffix == "svg":
            self.note.setText(f"{len(exports)} objects use filters; the rest stays vector.")
        else:
            self.note.setText(f"{len(exports)} objects hold pixels; the rest stays vector.")

    def _go(self, item: QListWidgetItem) -> None:
        self.session.select((item.data(Qt.ItemDataRole.UserRole),))
        self.session.set_stage(Stage.LIGHT)

    def choose(self) -> None:
        folder = self.session.path.parent if self.session.path else home()
        start = str(folder / f"{self.session.name}.{self.suffix}")
        path = ask_save_name(self, "Export", start, f"{self.suffix.upper()} (*.{self.suffix})", (f".{self.suffix}",))
        if path is not None:
            self.export_to(path)

    def export_to(self, path: Path) -> None:
        """Start the export; the window stays usable meanwhile."""
        document = self.session.at_hand
        options = ExportOptions(
            scale=self.width_field.value / document.sheet.width, dpi=self.dpi_field.value, flat=self.flat.isChecked(),
            ground="none" if self.clear_ground.isChecked() else "sheet", title=self.session.name,
            pure_vector=self.pure.isChecked(),
        )  # fmt: skip
        self.bar.setValue(0)
        self.bar.show()
        self.cancel_button.show()
        self.export_button.setEnabled(False)
        self.job = ExportJob(document, path, options, lambda v: self.bar.setValue(round(v * 1000)), self._ended)

    def cancel(self) -> None:
        if self.job is not None:
            self.job.cancel()

    def _ended(self, message: str) -> None:
        assert self.job is not None
        path, remark, self.job = self.job.path, self.job.remark, None
        self.bar.hide()
        self.cancel_button.hide()
        self.export_button.setEnabled(True)
        text = f"exported {path}" if not message else f"not exported: {message}"
        text += f"; {remark}" if remark else ""
        self.note.setText(text)
        self.session.say(text)


def _heading(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("heading")
    return label


def _quiet(text: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName("quiet")
    return label
