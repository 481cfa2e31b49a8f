"""A motif in the palette: a click lays it along the selected paths or on the sheet, a menu names and removes it."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog, QMenu, QToolButton

from volumen.app import theme
from volumen.app.state.session import Session
from volumen.edit import motifs
from volumen.model.nodes import Motif, Shape


class MotifButton(QToolButton):
    """Uses a motif of the palette."""

    def __init__(self, session: Session, motif: Motif) -> None:
        super().__init__()
        self.session, self.motif = session, motif
        self.setText(motif.name)
        self.setIcon(theme.icon("component", theme.SOFT_INK))
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.setAccessibleName(f"motif {motif.name}")
        self.setToolTip("click to lay it along the selected paths, or on the sheet where none is selected")
        self.clicked.connect(self.use)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._menu)

    def use(self) -> None:
        """Lay it along the selected shapes, or in the middle of the sheet."""
        s = self.session
        paths = [n.id for n in s.nodes if isinstance(n, Shape) and n.link != self.motif.node.link]
        if paths:
            document, made = motifs.along(s.document, self.motif, paths)
            s.apply("motif along a path", document)
        else:
            sheet = s.document.sheet
            document, one = motifs.placed(s.document, self.motif, (sheet.width / 2, sheet.height / 2))
            made = [one]
            s.apply("place motif", document)
        s.select(made)

    def choose_uses(self) -> None:
        """Select all that was used of it."""
        found = motifs.uses_of(self.session.document, self.motif)
        if found:
            self.session.select(found)
        else:
            self.session.say(f"'{self.motif.name}' is used nowhere now")

    def rename(self) -> None:
        name, done = QInputDialog.getText(self, "Motif", "Name of the motif", text=self.motif.name)
        if done and name.strip():
            s = self.session
            s.apply("rename motif", motifs.set_motif(s.document, self.motif.id, name=name.strip()[:60]))

    def remove(self) -> None:
        self.session.apply("remove motif", motifs.remove_motif(self.session.document, self.motif.id))

    def _menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        for title, call in (
            ("Select all its uses", self.choose_uses),
            ("Rename …", self.rename),
            ("Remove from the palette", self.remove),
        ):
            menu.addAction(title, call)
        menu.exec(self.mapToGlobal(at))
