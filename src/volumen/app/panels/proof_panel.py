"""The checks and the outputs of the Proof stage."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
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
from volumen.app.panels.proof_stock import by_object
from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.asking import ask, ask_save_name
from volumen.app.widgets.rows import heading_label, quiet_label
from volumen.app.widgets.segment import ListBox
from volumen.colour.press import Bytes, ProfileProblem
from volumen.edit.print_check import INK_THAT_MEETS, READABLE, Fault, faults, ink_that_meets, mended_print
from volumen.formats.check import Finding, check
from volumen.formats.files import FileProblem
from volumen.model.nodes import Document
from volumen.model.outputs import BITMAPS, Output
from volumen.model.tree import walk
from volumen.stock.contrast import Reading

if TYPE_CHECKING:
    from volumen.formats.outputs import Task


_DEVICES = ("on export only", "for the press", "for the cutter", "contrast on the stock")
_MOST_READ = 200  # rows


class ProofPanel(QWidget):
    """Checks (click to go there) and outputs (format, size, ground, progress, cancel)."""

    wants_place = Signal(int)  # of the object that a finding is about
    wants_inks = Signal()  # those of the whole sheet, which the worker measures

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.job: ExportJob | None = None
        self.findings: list[Finding] = []
        self.faults: list[Fault] = []
        self.read: dict[str, list[Reading]] = {}
        self._sheet_dpi = Output().dpi
        self.setObjectName("side")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 12)
        column.setSpacing(7)
        column.addWidget(heading_label("CHECKS"))
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
        column.addLayout(self._print_row())
        column.addWidget(heading_label("OUTPUT"))
        self._build_output(column)
        session.on((News.DOCUMENT, News.STAGE), self.refresh)
        session.on((News.PROOF,), self.refresh)
        session.on((News.PURITY,), self._show)

    def _print_row(self) -> QHBoxLayout:
        """For which device the artwork is checked, and the mending of what it would get wrong."""
        row = QHBoxLayout()
        self.device = ListBox()
        self.device.setAccessibleName("what is checked")
        self.device.addItems(_DEVICES)
        self.device.activated.connect(lambda _: self.refresh())
        self.mend_button = QPushButton("Mend …")
        self.mend_button.setToolTip("Put right what has a right mending: all of a kind, or in the selection")
        self.mend_button.clicked.connect(self._mend_menu)
        row.addWidget(self.device, 1)
        row.addWidget(self.mend_button)
        return row

    def _build_output(self, column: QVBoxLayout) -> None:
        self.form = OutputForm()
        self.form.changed.connect(self._say_purity)
        self.form.stock_chosen = lambda: self.session.proofing.stock_view(self.session.proofing.chosen_colour)
        self.formats, self.pure = self.form.formats, self.form.ticks["pure_vector"]
        column.addWidget(self.form)
        self.note = quiet_label("")
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

    @property
    def _is_wanted(self) -> bool:
        return self.session.stage == Stage.PROOF and not self.session.history.in_gesture

    def refresh(self) -> None:
        if not self._is_wanted:
            return
        self._follow_sheet()
        self.faults = self._faults()
        self._show()
        if self._for == "press":
            self.wants_inks.emit()

    def take_inks(self, document: Document, inks: Bytes) -> None:
        """The inks of the whole sheet (h, w, n): too much of them where colours meet is a finding, too."""
        if document is not self.session.document or self._for != "press":
            return
        met = ink_that_meets(document, inks, self.session.proofing.press)
        known = [f for f in self.faults if f.what != INK_THAT_MEETS]  # the last answer to the same question
        if met or len(known) < len(self.faults):
            self.faults = [*known, *met]
            self._show()

    def _show(self) -> None:
        """List what was found. What exports will hold the worker tells, a moment after each edit."""
        if not self._is_wanted:
            return
        document = self.session.document
        names = {n.id: n.name for n in walk(document.root)} | {0: "the sheet"}
        self.findings = check(document, self.session.purity)
        self.list.clear()
        for fault in self.faults:
            self._add(fault.node, names.get(fault.node, ""), fault.message, True)
        if self._on_stock:
            self._show_contrast(names)
            return
        for finding in self.findings:
            self._add(finding.node, finding.name, finding.message, finding.level == "warning")
        changes = sum(f.level == "export" for f in self.findings)
        warnings = len(self.findings) - changes + len(self.faults)
        self.summary.setText(
            f"{warnings} to look at, {changes} that change form on export" if warnings or changes
            else "Nothing to report: everything stays vector."
        )  # fmt: skip
        self.mend_button.setEnabled(any(f.mend for f in self.faults))
        self._say_purity()

    @property
    def _on_stock(self) -> bool:
        return self.device.currentIndex() == len(_DEVICES) - 1

    def show_read(self, read: dict[str, list[Reading]]) -> None:
        """What was read on stock, by its colour."""
        self.read = read
        if self._on_stock:
            self.refresh()

    def _show_contrast(self, names: dict[int, str]) -> None:
        """How every object reads on the stock, in all colours that hang on the wall, worst first."""
        rows = by_object(self.read)
        low = [found for found in rows if found[0][0].ratio < READABLE]
        for found in rows[:_MOST_READ]:
            worst = found[0][0]
            words = ", ".join(f"{r.ratio:.1f}{f' on {colour}' if colour else ' : 1'}" for r, colour in found)
            words += f"; {worst.lightness:.0f} apart in lightness, {worst.local:.1f} at its worst"
            self._add(worst.node, names.get(worst.node, ""), words, worst.ratio < READABLE)
        self.mend_button.setEnabled(False)
        self.summary.setText(
            f"{len(low)} of {len(rows)} read below {READABLE:.0f} : 1 somewhere." if rows
            else "Hang “stock” or “all colours” on the wall: what is seen there is measured."
        )  # fmt: skip

    def _follow_sheet(self) -> None:
        """The resolution is that of the sheet, until a hand sets another."""
        dpi, before = self.session.document.sheet.dpi, self._sheet_dpi
        self._sheet_dpi = dpi
        if dpi != before and self.form.output.dpi == before:
            self.form.set(dpi=dpi)

    def _add(self, node: int, name: str, message: str, warns: bool) -> None:
        item = QListWidgetItem(f"{name}\n{message}")
        icon, colour = ("triangle-alert", theme.VERMILION) if warns else ("diamond", theme.SOFT_INK)
        item.setIcon(theme.icon(icon, colour))
        item.setData(Qt.ItemDataRole.UserRole, node)
        self.list.addItem(item)

    @property
    def _for(self) -> str:
        """The device that is checked for."""
        return ("", "press", "cutter", "")[self.device.currentIndex()]

    def _faults(self) -> list[Fault]:
        try:
            p = self.session.proofing
            return faults(self.session.document, p.press, self._for, p.cutter) if self._for else []
        except ProfileProblem as problem:
            self.session.say(str(problem))
            return []

    def _mend_menu(self) -> None:
        menu = QMenu(self)
        for words, chosen in self.mendings():
            menu.addAction(words, lambda chosen=chosen: self.mend(chosen))
        menu.exec(self.mend_button.mapToGlobal(self.mend_button.rect().bottomLeft()))

    def mendings(self) -> list[tuple[str, list[Fault]]]:
        """What can be mended in one go, in words: each kind in the selection, and everywhere."""
        out = []
        for what in dict.fromkeys(f.what for f in self.faults if f.mend):
            alike = [f for f in self.faults if f.what == what and f.mend]
            chosen = [f for f in alike if f.node in self.session.selection]
            for found, where in ((chosen, "of the selection"), (alike, "in all")):
                if found:
                    out.append((f"{what}: {found[0].mend} ({len(found)} {where})", found))
        return out

    def mend(self, chosen: list[Fault]) -> None:
        """Mend some faults, as one step."""
        s = self.session
        s.apply("mend for print", mended_print(s.document, chosen, s.proofing.press, self._for, s.proofing.cutter))

    def _say_purity(self) -> None:
        self.note.setText(self._remark())

    def _remark(self) -> str:
        output, exports = self.form.output, [f for f in self.findings if f.level == "export"]
        if output.kind in BITMAPS:
            if output.kind == "tif" and output.inks:
                return f"{output.depth}-bit inks for the {self.session.proofing.press.name} press, with its profile."
            depth = 16 if output.depth == 16 and output.kind in ("png", "tif") else 8
            return f"{depth}-bit sRGB with its profile" + (", dithered once." if depth == 8 else ".")
        if output.inks and output.kind == "pdf":
            held = f"{len(exports)} objects hold pixels" if exports else "everything stays vector"
            return f"PDF/X-4 for the {self.session.proofing.press.name} press; {held}; letters {'in the file' if output.text else 'as outlines'}."
        if output.pure_vector:
            return "Soft light becomes stepped shapes; grain and pictures blurred in colours stay as they are."
        if not exports:
            return "Everything stays vector."
        what = "use filters" if output.kind == "svg" else "hold pixels"
        return f"{len(exports)} objects {what}; the rest stays vector."

    def _go(self, item: QListWidgetItem) -> None:
        node = item.data(Qt.ItemDataRole.UserRole)
        if not node:
            return  # the sheet itself
        self.session.select((node,))
        self.wants_place.emit(node)

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
