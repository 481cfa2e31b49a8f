"""A proof on paper, printed into a file: its size on the page, and the press simulated on it."""

import numpy as np
import pypdfium2
import pytest
from PySide6.QtCore import QRectF
from PySide6.QtGui import QPageLayout, QPageSize
from PySide6.QtPrintSupport import QPrintDialog, QPrinter

from scenes import disc, document
from volumen.app.commands.printing import ProofPage, place_on, print_proof
from volumen.model.make import solid


def test_a_sheet_keeps_its_size_unless_the_page_is_smaller():
    page = QRectF(0, 0, 2000, 3000)
    assert place_on(page, (96, 96), 300, False) == (QRectF(850, 1350, 300, 300), False)
    assert place_on(page, (96, 96), 300, True) == (QRectF(0, 500, 2000, 2000), False)
    place, smaller = place_on(page, (960, 960), 300, False)
    assert place.width() == pytest.approx(2000) and smaller


@pytest.mark.parametrize("pressed", [False, True])
def test_the_proof_is_printed_at_its_size_and_as_the_press_prints_it(window, qtbot, tmp_path, pressed):
    window.session.open(document(disc(1, 100, 100, 60, solid("#00ff28"))), None, "green")
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFileName(str(tmp_path / "proof.pdf"))
    printer.setPageSize(QPageSize(QPageSize.PageSizeId.A5))
    printer.setPageOrientation(QPageLayout.Orientation.Portrait)
    printer.setResolution(300)
    page = ProofPage("coated")
    page.what.setCurrentIndex(int(pressed))
    print_proof(window, printer, page)
    qtbot.waitUntil(lambda: "printed" in window.session.note, timeout=20000)
    file = pypdfium2.PdfDocument(tmp_path / "proof.pdf")
    image = np.asarray(file[0].render(scale=1).to_pil().convert("RGB")).astype(int)
    file.close()
    green = (image[..., 1] - image[..., 0] > 60) & (image[..., 1] - image[..., 2] > 25)
    ys, xs = np.nonzero(green)
    assert np.ptp(xs) + 1 == pytest.approx(120 * 0.75, abs=2) and np.ptp(ys) + 1 == pytest.approx(90, abs=2)
    r, g, _ = image[int(ys.mean()), int(xs.mean())]
    assert (r < 30 and g > 250) != pressed, "the press has no such green"


def test_the_command_opens_the_dialog_of_the_desktop(window, qtbot):
    window.registry.run("file.print")
    dialog = window.findChild(QPrintDialog)
    qtbot.waitUntil(dialog.isVisible)
    assert dialog.findChild(ProofPage).what.itemText(1) == "as the coated press prints it"
    dialog.reject()
