"""The checks and the outputs of the Proof stage."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from volumen.app import theme
from volumen.app.engine.export_job import ExportJob
from volumen.app.engine.folders import home
from volumen.app.panels.kept_outputs import KeptOutputs
from volumen.app.panels.output_form import OutputForm, described
from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.asking import ask, ask_save_name
from volumen.formats.check import Finding, check
from volumen.formats.files import FileProblem
from volumen.model.outputs import BITMAPS, Output

if TYPE_CHECKING:
    from volumen.formats.outputs import Task


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
        session.on((News.PROOF,), self._say_purity)

    def _build_output(self, column: QVBoxLayout) -> None:
        self.form = OutputForm()
        self.form.changed.connect(self._say_purity)
        self.formats, self.pure = self.form.formats, self.form.ticks["pure_vector"]
        column.addWidget(self.form)
        self.note = _quiet("")
        self.note.setWordWrap(True)
        column.addWidget(self.note)
        self.kept = KeptOutputs(self.session)
        self.kept.keep.connect(lambda: self.kept.add(self.form.output, described(self.form.output)))
        self.kept.chosen.connect(self._choose_kept)
        column.addWidget(self.kept)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.hide()
        column.addWidget(self.bar)
        row = QHBoxLayout()
        self.export_button = QPushButton("Export …")
        self.export_button.setObjectName("main")
        self.export_button.setToolTip("Write what is set above, under a name or into a folder")
        self.export_button.clicked.connect(self.choose)
        self.all_button = QPushButton("Ticked …")
        self.all_button.setToolTip("Write all kept outputs that are ticked into one folder")
        self.all_button.clicked.connect(self.choose_all)
        self.cancel_button = QPushButton("Cancel")
        self.cancel_button.clicked.connect(self.cancel)
        self.cancel_button.hide()
        row.addWidget(self.export_button, 1)
        row.addWidget(self.all_button)
        row.addWidget(self.cancel_button)
        column.addLayout(row)
        self._say_purity()

    @property
    def suffix(self) -> str:
        return self.form.output.kind

    def _choose_kept(self, output: Output) -> None:
        self.form.show_output(output)
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
        self.note.setText(self._remark())

    def _remark(self) -> str:
        output, exports = self.form.output, [f for f in self.findings if f.level == "export"]
        if output.kind in BITMAPS:
            if output.kind == "tif" and output.inks:
                return f"8-bit inks for the {self.session.proofing.press.name} press, with its profile."
            depth = 16 if output.depth == 16 and output.kind in ("png", "tif") else 8
            return f"{depth}-bit sRGB with its profile" + (", dithered once." if depth == 8 else ".")
        if output.pure_vector:
            return "Soft light becomes stepped shapes; grain and pictures blurred in colours stay as they are."
        if not exports:
            return "Everything stays vector."
        what = "use filters" if output.kind == "svg" else "hold pixels"
        return f"{len(exports)} objects {what}; the rest stays vector."

    def _go(self, item: QListWidgetItem) -> None:
        self.session.select((item.data(Qt.ItemDataRole.UserRole),))
        self.session.set_stage(Stage.LIGHT)

    def choose(self) -> None:
        """Ask where to write what is set: under a name, or into a folder where it makes several files."""
        if self.form.output.of == "each object":
            self._into_folder([self.form.output])
            return
        folder = self.session.path.parent if self.session.path else home()
        start = str(folder / f"{self.session.name}.{self.suffix}")
        path = ask_save_name(self, "Export", start, f"{self.suffix.upper()} (*.{self.suffix})", (f".{self.suffix}",))
        if path is not None:
            self.export_to(path)

    def choose_all(self) -> None:
        if not self.kept.wanted:
            self.note.setText("Tick the kept outputs that shall be written; “keep this” adds one.")
            return
        self._into_folder(self.kept.wanted)

    def _into_folder(self, outputs: list[Output]) -> None:
        start = str(self.session.path.parent if self.session.path else home())
        name = QFileDialog.getExistingDirectory(self, "Export into a folder", start)
        if name:
            self.export_into(Path(name), outputs)

    def export_into(self, folder: Path, outputs: list[Output]) -> None:
        """Start writing outputs into a folder; asks before files that are there are written over."""
        from volumen.formats.outputs import tasks_for

        s = self.session
        try:
            tasks = tasks_for(s.at_hand, outputs, s.selection, folder, s.name, s.proofing.press)
        except FileProblem as problem:
            self._say(f"not exported: {problem}")
            return
        there = [t.path.name for t in tasks if t.path.exists()]
        words = f"{', '.join(there[:4])}{' and more' if len(there) > 4 else ''}: there already."
        if not there or ask(self, words, "Replace", "Stay") == "Replace":
            self._start(tasks)

    def export_to(self, path: Path) -> None:
        """Start the export; the window stays usable meanwhile."""
        from volumen.formats.outputs import Task, options_for

        s, output = self.session, self.form.output
        if output.of == "selection" and not s.selection:
            self._say("not exported: nothing is selected; choose what shall be exported, or export the sheet")
            return
        nodes = s.selection if output.of == "selection" else ()
        self._start([Task(path, options_for(s.at_hand, output, nodes, s.proofing.press, s.name))])

    def _start(self, tasks: list[Task]) -> None:
        self.bar.setValue(0)
        self.bar.show()
        self.cancel_button.show()
        self.export_button.setEnabled(False)
        self.all_button.setEnabled(False)
        self.job = ExportJob(
            self.session.at_hand, tasks, lambda v: self.bar.setValue(round(v * 1000)), self._ended
        )  # fmt: skip

    def cancel(self) -> None:
        if self.job is not None:
            self.job.cancel()

    def _ended(self, message: str) -> None:
        assert self.job is not None
        tasks, remark, self.job = self.job.tasks, self.job.remark, None
        self.bar.hide()
        self.cancel_button.hide()
        self.export_button.setEnabled(True)
        self.all_button.setEnabled(True)
        names = [t.path.name for t in tasks]
        what = str(tasks[0].path) if len(tasks) == 1 else f"{len(tasks)} files: {', '.join(names)}"
        text = f"exported {what}" if not message else f"not exported: {message}"
        self._say(text + (f"; {remark}" if remark else ""))

    def _say(self, text: str) -> None:
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
