"""The main window: puts the parts together and owns what lives as long as it does."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QFrame, QMessageBox, QStackedWidget, QVBoxLayout, QWidget

from volumen import __version__
from volumen.app.canvas.arranger import Arranger
from volumen.app.canvas.canvas import Canvas
from volumen.app.commands.clipboard import Clipboard
from volumen.app.commands.documents import Documents
from volumen.app.commands.foreign_reading import Reading
from volumen.app.commands.photo_stock import choose_photograph
from volumen.app.commands.placing import Placing
from volumen.app.commands.tables import MENUS, Exchange, register
from volumen.app.engine.autosave import Autosave
from volumen.app.engine.frames import PREVIEW_SIDE, FrameLink, png_of
from volumen.app.engine.settings import remembered
from volumen.app.engine.tidying import Tidying
from volumen.app.panels.choosing import ChoosingWall
from volumen.app.panels.compare_overlay import CompareOverlay
from volumen.app.panels.header import Header, Status
from volumen.app.panels.palette_panel import PalettePanel
from volumen.app.panels.pile import Pile
from volumen.app.panels.proof_choices import ProofChoices
from volumen.app.panels.proof_panel import ProofPanel
from volumen.app.panels.proof_wall import ProofWall
from volumen.app.panels.recipe_panel import RecipePanel
from volumen.app.panels.section import Section
from volumen.app.panels.toolbox import Toolbox
from volumen.app.state.news import News, Stage
from volumen.app.state.registry import Registry
from volumen.app.widgets.scrolled import Scrolled
from volumen.app.window.command_list import CommandList, help_view
from volumen.app.window.keys import LEAVING, KeysOfSheet
from volumen.app.window.layout import LEFT_PANEL, RIGHT_PANEL, LaidOut
from volumen.app.window.menus import Menus
from volumen.colour.press_views import ProofView
from volumen.edit.print_check import INK_SIDE
from volumen.formats.images import SUFFIXES
from volumen.model.ingredients import Ingredient, Recipe
from volumen.render.worker.client import RenderClient
from volumen.render.worker.messages import ImageAnswer

DROPPED = (".volumen", ".svg", *SUFFIXES)


class Window(LaidOut):
    """The main window, and the desk that commands act on."""

    def __init__(self, client: RenderClient) -> None:
        super().__init__()
        self.link = FrameLink(self.session, client)
        self.canvas = Canvas(self.session, self.link)
        self.pile = Pile(self.session, self.link)
        self.recipe = RecipePanel(self.session)
        self.section = Section(self.session, self.canvas)
        self.choosing = ChoosingWall(self.session, self.link)
        self.wall = ProofWall(self.session, self.link)
        self.proof = ProofPanel(self.session)
        self.proof_choices = ProofChoices(self.session)
        self.autosave = Autosave(self.session)
        self._tidying = Tidying(self.session)
        self.autosave.wants_preview = self._make_preview
        self.reading = Reading(self)
        self.files = Documents(self)
        self.placing = Placing(self)
        self.clipboard = Clipboard(self)
        self.arranger = Arranger(self.session, self.canvas)
        self.registry = Registry(self.session)
        register(self, Exchange(self.files, self.placing, self.clipboard), self.registry)
        self.swatches = PalettePanel(self.session, self.registry.run)
        self.toolbox = Toolbox(self.session, self.registry, self.canvas, self.arranger)
        self.compare_overlay = CompareOverlay(self.canvas)
        self._lay_out()
        self.menus = Menus(self.registry, self.menuBar(), self, MENUS, (self.canvas, self.wall))
        self.command_list: CommandList | None = None
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.session.on((News.DOCUMENT, News.FILE), self._show_title)
        self.session.on((News.STAGE,), self._stage_changed)
        self.choosing.opened.connect(self._show_section)
        self.proof_choices.stock.wants_photograph.connect(
            lambda: choose_photograph(self, self.session.say, self.proof_choices.stock.use, self.session.proofing.on)
        )
        self.proof.wants_place.connect(self.wall.point_at)
        self.proof.wants_inks.connect(self._measure_inks)
        self.wall.on_stock.read_changed.connect(lambda: self.proof.show_read(self.wall.on_stock.read))
        self.proof_choices.devices.wants_file.connect(self.files.ask_to_print)
        self.proof_choices.wants_file.connect(lambda: self.wall.compare_with(self.files.ask_to_compare()))
        self._stage_changed()
        self._show_title()
        self.wall.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.canvas.setFocus()
        self.keys = KeysOfSheet(self, lambda: self.wall if self.session.stage == Stage.PROOF else self.canvas)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.keys.watch(self.windowHandle())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter and Escape that nothing took end the typing in a field, or the way through a list."""
        if event.key() in LEAVING:
            self.keys.give_back()
        else:
            super().keyPressEvent(event)

    def _lay_out(self) -> None:
        left = QWidget()
        left.setObjectName("side")
        left.setMinimumWidth(LEFT_PANEL[0])
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.toolbox)
        self.proofs = Scrolled(self.proof_choices)
        column.addWidget(self.proofs)
        self.tool_rule = _rule()
        column.addWidget(self.tool_rule)
        column.addWidget(self.swatches, 1)
        self.palette_rule = _rule()
        column.addWidget(self.palette_rule)
        column.addWidget(self.pile, 1)
        self.middle = QStackedWidget()
        sheet = QWidget()
        stack = QVBoxLayout(sheet)
        stack.setContentsMargins(0, 0, 0, 0)
        stack.setSpacing(0)
        stack.addWidget(self.canvas, 1)
        stack.addWidget(self.section)
        stack.addWidget(self.choosing)
        self.middle.addWidget(sheet)
        self.middle.addWidget(self.wall)
        self.right = QStackedWidget()
        self.right.setMinimumWidth(RIGHT_PANEL[0])
        self.right.addWidget(self.recipe)
        self.right.addWidget(self.proof)
        self.panes.setHandleWidth(5)
        self.panes.setChildrenCollapsible(True)
        for k, pane in enumerate((left, self.middle, self.right)):
            self.panes.addWidget(pane)
            self.panes.setStretchFactor(k, int(pane is self.middle))
            self.panes.setCollapsible(k, pane is not self.middle)
        self.panes.setSizes([LEFT_PANEL[1], 768, RIGHT_PANEL[1]])
        self.panes.splitterMoved.connect(lambda *_: remembered().setValue("panes", self.panes.sizes()))
        whole = QWidget()
        whole.setObjectName("plain")
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(Header(self.session))
        column.addWidget(_rule())
        column.addWidget(self._notice_bar())
        column.addWidget(self.panes, 1)
        self.setCentralWidget(whole)
        self.setStatusBar(Status(self.session, self.canvas))

    def fault(self, what: str) -> None:
        """Something of our own went wrong: the gesture under way is undone, and it is said."""
        with suppress(Exception):
            self.canvas.drop()
        self.notice(
            f"Something went wrong in Volumen itself ({what}). What was under way was undone; the rest is safe."
        )

    def _make_preview(self) -> None:
        """A picture for the next autosave."""

        def take(answer: ImageAnswer) -> None:
            self.autosave.preview = png_of(answer)

        self.link.request_image((), (PREVIEW_SIDE, PREVIEW_SIDE), False, take)

    def _measure_inks(self) -> None:
        """Ask the worker what inks lie where on the whole sheet, for the checks."""
        document = self.session.document
        k = INK_SIDE / max(document.sheet.width, document.sheet.height)
        size = max(round(document.sheet.width * k), 1), max(round(document.sheet.height * k), 1)

        def take(answer: ImageAnswer) -> None:
            if answer.inks:
                inks = np.frombuffer(answer.inks, np.uint8).reshape(answer.height, answer.width, -1)
                self.proof.take_inks(document, inks)

        self.link.request_image((), size, False, take, None, ProofView("ink", self.session.proofing.press))

    # -- stages and tools

    def _stage_changed(self) -> None:
        proof = self.session.stage == Stage.PROOF
        self.middle.setCurrentIndex(1 if proof else 0)
        self.right.setCurrentIndex(1 if proof else 0)
        self._show_section()
        self.toolbox.setVisible(not proof)
        self.proofs.setVisible(proof)
        self.swatches.setVisible(self.session.stage == Stage.COLOUR)
        self.palette_rule.setVisible(self.session.stage == Stage.COLOUR)
        if self.session.stage not in self._stages_of(self.session.tool):
            self.session.set_tool("move")

    def _stages_of(self, tool: str) -> list[Stage]:
        """The stages that offer a tool, its home first."""
        return [shown.stage for shown in self.canvas.tools[tool].toolbox]

    def _show_section(self) -> None:
        """The section in its stage, unless the wall of choices has its place."""
        self.section.setVisible(self.session.stage == Stage.LIGHT and self.choosing.isHidden())

    def take_tool(self, tool: str) -> None:
        """Choose a tool; if the stage does not offer it, go to the first stage that does."""
        if self.session.stage not in self._stages_of(tool):
            self.session.set_stage(self._stages_of(tool)[0])
        self.session.set_tool(tool)

    # -- the desk of the commands

    @property
    def dialog_parent(self) -> QWidget:
        return self

    @property
    def swatch_group(self) -> str | None:
        return self.swatches.chosen_group

    def add_ingredient(self, ingredient: Ingredient) -> None:
        self.recipe.editor.add(ingredient)

    def add_pair(self, pair: Recipe) -> None:
        self.recipe.editor.add_pair(pair)

    def open_first_card(self) -> None:
        self.recipe.editor.open_first()

    def rename_selected(self) -> None:
        self.pile.rename_selected()

    def choose_by_eye(self, kind: str) -> None:
        self.choosing.show_kind(kind)

    def leave(self) -> None:
        self.close()

    def show_outputs(self) -> None:
        """Show the outputs; format and size are chosen there before any file is named."""
        self.session.set_stage(Stage.PROOF)
        self.proof.export_button.setFocus()

    def compare(self) -> None:
        """Compare on the sheet with another state, or large on the wall; once more ends it."""
        s, p = self.session, self.session.proofing
        if s.stage != Stage.PROOF:
            self.compare_overlay.file = self.wall.comparing.file
            self.compare_overlay.toggle()
            return
        shown = p.shown if "compare" in p.shown else (*p.shown, "compare")
        s.set_proofing(shown=shown, large=None if p.large == "compare" else "compare")

    # -- help

    def show_command_list(self) -> None:
        if self.command_list is None:
            self.command_list = CommandList(self, self.registry)
        self.command_list.open()

    def show_help(self) -> None:
        help_view(self, self.registry).show()

    def show_about(self) -> None:
        QMessageBox.about(
            self, "About Volumen", f"<h3>Volumen {__version__}</h3>Volume, light and material for vector artwork."
        )

    # -- the window itself

    def _show_title(self) -> None:
        mark = "• " if self.session.unsaved else ""
        self.setWindowTitle(f"{mark}{self.session.name} — Volumen")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(u.toLocalFile().lower().endswith(DROPPED) for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Artwork is opened; pictures and SVG are placed."""
        for url in event.mimeData().urls():
            name = url.toLocalFile()
            if name.endswith(".volumen"):
                if self.files.may_leave():
                    self.files.load(name)
                return
            if name.lower().endswith(DROPPED):
                self.placing.place_file(Path(name))

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.autosave.close()
        self.files.close()
        self.reading.close()
        if self.proof.job is not None:
            self.proof.job.cancel()
        self.link.close()
        self.clipboard.leave()
        event.accept()


def _rule(vertical: bool = False) -> QFrame:
    rule = QFrame()
    rule.setObjectName("rule")
    if vertical:
        rule.setFixedWidth(1)
    else:
        rule.setFixedHeight(1)
    rule.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    return rule
