"""What the window works on: the document's history, the selection, and how it is looked at.

There is one channel of news: ``changed`` with a word for what changed. Widgets read state back from here and
write only through these methods, so nothing echoes.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QTimer

from volumen.app.state.looking import Looking
from volumen.app.state.news import News
from volumen.colour.press_settings import Press
from volumen.edit import links, recipes
from volumen.edit.gradients import one_gradient
from volumen.edit.history import History
from volumen.model.fitting import NotTaken, fitted
from volumen.model.make import empty_document
from volumen.model.nodes import Document, Node, Shape
from volumen.model.sizes import DocumentError, Sizes
from volumen.model.tree import find


class Session(Looking):
    """``changed`` carries one of ``News``."""

    def __init__(self, document: Document | None = None) -> None:
        super().__init__()
        self.history = History(document or empty_document())
        self.sizes = Sizes()
        self._refused = False  # in this turn of the loop of events
        self.selection: tuple[int, ...] = ()
        self._known: tuple[object, tuple[int, ...], list[Node]] = (None, (), [])
        self.active: int | None = None  # the ingredient whose card and handles are open
        self.active_stop = 0
        self.mesh_points: tuple[tuple[int, int], ...] = ()  # (row, column) of the mesh points in hand
        self.path: Path | None = None
        self.name = "untitled"
        self.on((News.DOCUMENT, News.FILE), self._follow_press)
        self.unfinished: Callable[[], Document | None] = lambda: None  # with what is half drawn or half typed

    @property
    def document(self) -> Document:
        return self.history.document

    @property
    def shown(self) -> Document:
        """The document as it is to be seen."""
        if not self.muted or not self.selection:
            return self.document
        first = self.first
        if self.active is not None and first is not None and self.active < len(first.recipe):
            return recipes.edit_alike(self.document, self.selection, self.active, first.recipe[self.active], on=False)
        return recipes.without_light(self.document, self.selection)

    # -- the document

    @property
    def at_hand(self) -> Document:
        """The document with what is half drawn or half typed as if it were ended: what must not be lost."""
        unfinished = self.unfinished()
        return self.history.committed if unfinished is None else unfinished

    @property
    def unsaved(self) -> bool:
        """Whether there is anything that would be lost."""
        return self.history.changed or self.unfinished() is not None

    def open(self, document: Document, path: Path | None, name: str) -> None:
        self.history = History(document)
        self.isolated = None
        self.path, self.name = path, name
        self.selection, self.active = (), None
        self.tell(News.DOCUMENT, News.SELECTION, News.FILE)

    def apply(self, label: str, document: Document) -> None:
        """One finished edit: one step of undo."""
        before = self.history.committed
        try:
            document = fitted(document, self.history.document)
            document = links.followed(before, one_gradient(before, document))
            self.sizes.check(document)
        except (NotTaken, DocumentError) as problem:
            self.refuse(f"{label}: {problem}")
            return
        if document == before:
            self.cancel()
            self.say(f"{label}: there is nothing to change")
        elif self.history.commit(document, label, self.selection):
            self._prune()
            self.tell(News.DOCUMENT)

    def preview(self, document: Document) -> None:
        """A moment of a gesture; ``commit`` or ``cancel`` ends it."""
        try:
            document = fitted(document, self.history.document)
            self.sizes.check_pieces(document)
        except (NotTaken, DocumentError) as problem:
            self.say(str(problem))
            return
        if document is not self.document:
            before = self.history.committed
            self.history.preview(links.followed(before, one_gradient(before, document)))
            self.tell(News.DOCUMENT)

    def commit(self, label: str) -> None:
        """Make the going gesture one step of undo."""
        if self.history.in_gesture:
            try:
                self.sizes.check(self.document)
            except DocumentError as problem:
                self.refuse(f"{label}: {problem}")
                return
            self.history.commit(self.document, label, self.selection)
            self.tell(News.DOCUMENT)

    def follow(self, change: Callable[[Document], Document], of: Document | None) -> None:
        """Let what follows the artwork do so within the step that changed it, unless the artwork has changed since."""
        if of is self.document and not self.history.in_gesture:
            self.history.amend(change(self.document))
            self.tell(News.DOCUMENT)

    def refuse(self, why: str) -> None:
        """An edit that cannot be: what was there before shows again, and it is said why. What the command says of the
        edit that it believes to have made is not heard."""
        self.cancel()
        self.say(why)
        self._refused = True
        QTimer.singleShot(0, self._heard)

    def _heard(self) -> None:
        self._refused = False

    def say(self, note: str) -> None:
        if not self._refused:
            super().say(note)

    def cancel(self) -> None:
        if self.history.in_gesture:
            self.history.cancel()
            self._prune()
            self.tell(News.DOCUMENT)

    def undo(self) -> None:
        if self.history.undo_label is None and not self.history.in_gesture:
            self.say("nothing was done yet")
            return
        self._jumped(self.history.undo(self.selection))

    def redo(self) -> None:
        self._jumped(self.history.redo(self.selection))

    def _jumped(self, chosen: tuple[int, ...]) -> None:
        """Another step is shown: with what was selected then."""
        self._prune()
        self.select(chosen)
        self.tell(News.DOCUMENT, News.SELECTION)

    def _prune(self) -> None:
        """Drop what no longer exists from the selection."""
        self.select(self.selection)

    def set_press(self, press: Press) -> None:
        """Choose the press that the artwork is made for: a part of it. White paper or the print's own is only a look."""
        if press.paper != self.proofing.press.paper:
            self.set_proofing(press=replace(self.proofing.press, paper=press.paper))
        self.apply("choose the press", replace(self.document, press=replace(press, paper=False)))

    def _follow_press(self) -> None:
        """Proofs are for the press of the artwork."""
        self.set_proofing(press=replace(self.document.press, paper=self.proofing.press.paper))

    # -- the selection

    def select(self, ids: tuple[int, ...] | list[int]) -> None:
        """Select objects; what is not there is left out, as after an edit that was refused."""
        new = tuple(i for i in dict.fromkeys(ids) if find(self.document, i) is not None)
        if new != self.selection:
            self.selection, self.active, self.active_stop, self.mesh_points = new, None, 0, ()
            self.tell(News.SELECTION)

    @property
    def nodes(self) -> list[Node]:
        """The selected nodes, in the order of selection."""
        document = self.document
        if self._known[0] is not document or self._known[1] is not self.selection:
            found = [n for i in self.selection if (n := find(document, i)) is not None]
            self._known = (document, self.selection, found)
        return list(self._known[2])

    @property
    def first(self) -> Node | None:
        nodes = self.nodes
        return nodes[0] if nodes else None

    @property
    def only_shape(self) -> Shape | None:
        nodes = self.nodes
        return nodes[0] if len(nodes) == 1 and isinstance(nodes[0], Shape) else None

    def set_active(self, index: int | None, stop: int = 0) -> None:
        if (index, stop) != (self.active, self.active_stop):
            self.active, self.active_stop = index, stop
            self.tell(News.ACTIVE)

    # -- how it is looked at

    def saved(self, path: Path, document: Document | None = None) -> None:
        self.path, self.name = path, path.stem
        self.history.mark_saved(document)
        self.tell(News.FILE)
