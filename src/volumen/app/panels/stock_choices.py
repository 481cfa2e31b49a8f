"""The stock that the artwork is proofed on: which one, in which colour, how ink is laid on cloth."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from volumen.app.engine.folders import home
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.rows import heading_label
from volumen.app.widgets.segment import ListBox, narrow
from volumen.formats.files import FileProblem
from volumen.formats.foreign import FileToRead, StockFile, read_here
from volumen.stock.stocks import Cloth, Photograph, Stock, shipped_stocks

_OWN, _PHOTOGRAPH = "own stock …", "on a photograph …"


class StockChoices(QWidget):
    """Shown while a proof on stock hangs on the wall. ``wants_photograph``: a picture to print on shall be chosen."""

    wants_photograph = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addWidget(heading_label("STOCK"))
        self.stocks, self.colours = narrow(ListBox()), narrow(ListBox())
        self.stocks.setAccessibleName("stock")
        self.stocks.setToolTip("What the artwork is printed on; its own kinds are small files that you can write")
        self.stocks.activated.connect(self._take)
        self.colours.setAccessibleName("colour of the stock")
        self.colours.activated.connect(lambda n: session.set_proofing(colour=self.colours.itemText(n)))
        line = QHBoxLayout()
        line.addWidget(self.stocks, 3)
        line.addWidget(self.colours, 2)
        column.addLayout(line)
        self.underbase = QCheckBox("underbase")
        self.underbase.setToolTip("White under the ink, as a garment printer lays it; without it ink dyes the cloth")
        self.underbase.clicked.connect(lambda on: session.set_proofing(ink="underbase" if on else "dye"))
        self.own_size = QCheckBox("own size")
        self.own_size.clicked.connect(lambda on: session.set_proofing(own_size=on))
        ticks = QHBoxLayout()
        ticks.addWidget(self.underbase)
        ticks.addWidget(self.own_size)
        column.addLayout(ticks)
        session.on((News.PROOF, News.STAGE), self.refresh)

    def refresh(self) -> None:
        p = self.session.proofing
        names = [s.name for s in shipped_stocks()]
        if p.on.name not in names:
            names.append(p.on.name)
        self.stocks.clear()
        self.stocks.addItems([*names, _OWN, _PHOTOGRAPH])
        self.stocks.setCurrentText(p.on.name)
        self.colours.clear()
        self.colours.addItems(list(p.on.colours))
        if p.colour in p.on.colours:
            self.colours.setCurrentText(p.colour)
        self.colours.setVisible(len(p.on.colours) > 1)
        self.own_size.setChecked(p.own_size)
        high = "" if isinstance(p.on.thing, Photograph) else f" x {p.on.height:g}"
        self.own_size.setToolTip(f"Printed as large as it is, not fitted; there is room for {p.on.width:g}{high} mm")
        self.underbase.setVisible(isinstance(p.on.thing, Cloth))
        self.underbase.setChecked(p.ink == "underbase")

    def _take(self, row: int) -> None:
        word = self.stocks.itemText(row)
        if word == _OWN:
            name, _ = QFileDialog.getOpenFileName(self, "Stock", str(home()), "Stock (*.json)")
            if name:
                self.load(Path(name))
        elif word == _PHOTOGRAPH:
            self.wants_photograph.emit()
        else:
            found = next((s for s in shipped_stocks() if s.name == word), None)
            if found is not None:
                self.use(found)
        self.refresh()

    def load(self, path: Path) -> bool:
        """Proof on a stock of one's own; what is none is said."""
        try:
            found = read_here(FileToRead("stock", str(path)))
            assert isinstance(found, StockFile)
            self.use(found.stock)
        except FileProblem as problem:
            self.session.say(str(problem))
            return False
        return True

    def use(self, stock: Stock) -> None:
        """Proof on a stock, in the first of its colours."""
        self.session.set_proofing(stock=stock, colour=next(iter(stock.colours), ""))
