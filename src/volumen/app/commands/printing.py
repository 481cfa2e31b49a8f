"""A proof on paper: the sheet printed at its size, as it is or as the press would print it."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from volumen.app.commands.desk import Desk, tell
from volumen.app.engine.frames import image_of
from volumen.app.widgets.rows import quiet_label
from volumen.app.widgets.segment import ListBox
from volumen.colour.press_views import ProofView
from volumen.render.worker.messages import ImageAnswer

_LARGEST = 6000  # pixels along the longer side; a proof shows no more


class ProofPage(QWidget):
    """What is printed, and how large: a tab of the print dialog."""

    def __init__(self, press: str) -> None:
        super().__init__()
        self.setWindowTitle("Proof")
        column = QVBoxLayout(self)
        self.what, self.size_box = ListBox(), ListBox()
        self.what.setAccessibleName("what is printed")
        self.what.addItems(["as drawn", f"as the {press} press prints it"])
        self.size_box.setAccessibleName("how large it is printed")
        self.size_box.addItems(["at its own size", "as large as the page"])
        for word, box in (("picture", self.what), ("size", self.size_box)):
            column.addWidget(quiet_label(word))
            column.addWidget(box)
        column.addStretch(1)

    @property
    def pressed(self) -> bool:
        return self.what.currentIndex() == 1

    @property
    def fits(self) -> bool:
        return self.size_box.currentIndex() == 1


def show_print_dialog(desk: Desk) -> None:
    """The print dialog of the desktop, with a tab for the proof."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(desk.session.name)
    dialog = QPrintDialog(printer, desk.dialog_parent)
    page = ProofPage(desk.session.proofing.press.name)
    dialog.setOptionTabs([page])
    dialog.accepted.connect(lambda: print_proof(desk, printer, page))
    QDialog.open(dialog)  # its own wants to be told a slot by name


def place_on(page: QRectF, size: tuple[float, float], dots: float, fits: bool) -> tuple[QRectF, bool]:
    """Where a sheet (user units) lies on a page (dots of the printer, so many to the inch): in its middle, at its own
    size or as large as the page. Also whether it had to be made smaller than its own size."""
    w, h = size[0] / 96 * dots, size[1] / 96 * dots
    most = min(page.width() / w, page.height() / h)
    k = most if fits else min(most, 1.0)
    place = QRectF(0, 0, w * k, h * k)
    place.moveCenter(page.center())
    return place, not fits and k < 0.999


def print_proof(desk: Desk, printer: QPrinter, page: ProofPage) -> None:
    """Print when the worker has drawn what is needed."""
    session, sheet = desk.session, desk.session.document.sheet
    paper = QRectF(printer.pageLayout().paintRectPixels(printer.resolution()))
    paper.moveTo(0, 0)  # the painter begins where the printer can print
    place, smaller = place_on(paper, (sheet.width, sheet.height), printer.resolution(), page.fits)
    k = min(1.0, _LARGEST / max(place.width(), place.height()))
    size = max(round(place.width() * k), 1), max(round(place.height() * k), 1)
    view = ProofView("press", session.proofing.press, veil=False) if page.pressed else None

    def done(answer: ImageAnswer) -> None:
        if answer.problem:
            tell(desk, f"not printed: {answer.problem}")
            return
        painter = QPainter()
        if not painter.begin(printer):
            tell(desk, "not printed: the printer does not answer; choose another or print to a file")
            return
        painter.drawImage(place, image_of(answer))
        painter.end()
        session.say("printed, made smaller to fit the page" if smaller else "printed")

    desk.link.request_image((), size, session.flat, done, view=view)
