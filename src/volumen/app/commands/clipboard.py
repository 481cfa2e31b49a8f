"""The clipboard: objects for Volumen and for other programs, and a recipe to give to others."""

from __future__ import annotations

from PySide6.QtGui import QGuiApplication
from shiboken6 import isValid

from volumen.app.commands.copied import MIME, SVG_MIME, Copied
from volumen.app.commands.desk import Desk, tell_missing
from volumen.edit import links, objects
from volumen.edit.arrange import beside
from volumen.edit.looks import give_recipe
from volumen.edit.placing import own_box, sheet_recipe
from volumen.formats import native
from volumen.formats.files import FileProblem
from volumen.geometry.path import Box
from volumen.model.ingredients import Recipe
from volumen.model.nodes import Document, Group
from volumen.model.tree import world_of


class Clipboard:
    """What was copied. A recipe is kept apart from the objects, with the box of the object that it came from."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session
        self.recipe: Recipe = ()
        self.recipe_box: Box | None = None
        self.copied: Copied | None = None

    def leave(self) -> None:
        """Nothing of ours stays on the clipboard: it must not outlive the program. What is another's stays."""
        self.let_go()
        clipboard = QGuiApplication.clipboard()
        if clipboard.ownsClipboard() or isinstance(clipboard.mimeData(), Copied):
            clipboard.clear()

    def copy_recipe(self) -> None:
        node = self.session.first
        if node is not None:
            world = world_of(self.session.document, node.id)
            self.recipe, self.recipe_box = sheet_recipe(node.recipe, world), own_box(node)
            self.session.say(f"recipe of '{node.name}' copied")

    def paste_recipe(self) -> None:
        s = self.session
        s.apply("apply recipe", give_recipe(s.document, s.selection, self.recipe, self.recipe_box))

    def copy(self) -> None:
        """The selection for Volumen itself, and as SVG and PNG for other programs."""
        s = self.session
        self.let_go()
        self.copied = Copied(s.document, objects.branches(s.document, s.selection))
        QGuiApplication.clipboard().setMimeData(self.copied)

    def let_go(self) -> None:
        """What was copied last is not wanted in other forms any more."""
        if self.copied is not None and isValid(self.copied):
            self.copied.stop()
        self.copied = None

    def paste(self, where: str = "front") -> None:
        """Paste in front of all; or in place, ``above`` or ``below`` what is selected."""
        try:
            document, made, notes = self._pasted(where)
        except FileProblem as problem:
            self.session.say(str(problem))
            return
        if not made:
            self.session.say("there is nothing on the clipboard that can be pasted")
            return
        self.session.apply("paste", document)
        self.session.select(made)
        tell_missing(self.desk, notes)

    def _pasted(self, where: str) -> tuple[Document, list[int], list[str]]:
        mime, s = QGuiApplication.clipboard().mimeData(), self.session
        document, notes = s.document, []
        if mime is None:
            return document, [], []
        if mime.hasFormat(MIME):
            clips = native.decode_branches(bytes(mime.data(MIME).data()))
            document, clips = links.own_links(document, clips)
            document, made = objects.paste(document, clips, 12.0 if where == "front" else 0.0)
        else:
            data = bytes(mime.data(SVG_MIME).data()) if mime.hasFormat(SVG_MIME) else b""
            if not data and mime.hasText() and "<svg" in mime.text()[:2000]:
                data = mime.text().encode()
            if not data:
                return document, [], []
            reading = self.desk.reading.svg_data(data, "the clipboard")
            notes = reading.notes
            document, made = objects.paste(document, (Group(-2, "clip", (reading.content,)),))
        if where != "front" and s.selection:
            document = beside(document, made, s.selection[0], where == "above")
        return document, made, notes
