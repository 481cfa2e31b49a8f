"""New, open, save: the window's dealings with files, every problem said in words."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from volumen.app.commands.desk import Desk, tell, tell_missing
from volumen.app.commands.sheet_settings import ask_for_new_sheet
from volumen.app.engine import recovery
from volumen.app.engine.claims import Claim, held_elsewhere
from volumen.app.engine.folders import home
from volumen.app.state.news import News
from volumen.app.widgets.asking import ask, ask_save_name
from volumen.demo import DEMOS
from volumen.formats import native
from volumen.formats.files import FileProblem, Stamp, digest, stamp
from volumen.model.make import empty_document
from volumen.model.nodes import Document

FILTER = "Volumen artwork (*.volumen)"
OPEN_FILTER = "Artwork (*.volumen *.svg)"
_PRINTABLE = "For a press (*.pdf *.tif *.tiff)"

_OTHER_NAME, _OVER, _STAY = "Save under another name", "Write over it", "Stay"


class Documents:
    """Opens, saves, recovers and leaves documents, asking where work could be lost."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session
        self._stamp: Stamp | None = None  # of the open file, when it was read or written last
        self._digest = b""  # of its content then
        self._claim = Claim()

    # -- opening

    def new(self) -> None:
        if self.may_leave():
            before = self.session.document.sheet
            self.show(empty_document(), None, "untitled")
            ask_for_new_sheet(self.desk, before, lambda d: self.show(d, None, "untitled"))

    def open(self) -> None:
        if self.may_leave():
            self.desk.reading.prepare()
            name, _ = QFileDialog.getOpenFileName(self.desk.dialog_parent, "Open", self._folder(), OPEN_FILTER)
            if name:
                self.load(name)
            self.desk.reading.close()

    def ask_to_compare(self) -> tuple[str, Document] | None:
        """A document from a file that the open one is compared with, and its name; None if there is none."""
        self.desk.reading.prepare()
        name, _ = QFileDialog.getOpenFileName(self.desk.dialog_parent, "Compare with", self._folder(), OPEN_FILTER)
        try:
            return (Path(name).name, self.desk.reading.artwork(Path(name)).document) if name else None
        except FileProblem as problem:
            tell(self.desk, str(problem))
            return None
        finally:
            self.desk.reading.close()

    def ask_to_print(self) -> None:
        """Ask for a file that the simulated press prints in place of the artwork; what it cannot print is said."""
        self.desk.reading.prepare()
        name, _ = QFileDialog.getOpenFileName(self.desk.dialog_parent, "Print a file", self._folder(), _PRINTABLE)
        try:
            if name:
                size = self.desk.reading.printable(Path(name))
                self.session.set_proofing(written=name)
                self.session.say(f"'{Path(name).name}' is {size.width:.0f} x {size.height:.0f} mm")
        except FileProblem as problem:
            tell(self.desk, str(problem))
        finally:
            self.desk.reading.close()

    def show(self, document: Document, path: Path | None, name: str) -> None:
        """Put a document in place of the open one, whose work under way goes with it."""
        self.desk.canvas.drop()
        self.desk.autosave.clear()
        self._stamp = None if path is None else stamp(path)
        self._digest = b"" if path is None else digest(path)
        self.session.open(document, path, name)
        if not self._claim.take(path):
            tell(
                self.desk,
                f"'{name}' is open in another window of Volumen, too. Saving asks before it writes over the other.",
            )
        self.desk.canvas.fit()

    def load(self, name: str) -> bool:
        """Open a file or ``demo:NAME``; on a problem the open document stays. False if it did not open."""
        path = Path(name)
        try:
            if name.startswith("demo:"):
                self.show(DEMOS[name[5:]][1](), None, name[5:])
                return True
            svg = path.suffix.lower() == ".svg"
            found = self.desk.reading.artwork(path)
            self.show(found.document, None if svg else path, path.stem)
            if svg:
                tell_missing(self.desk, found.notes)
            elif found.notes:
                tell(self.desk, f"'{path.name}' went beyond the limits of a document: {'; '.join(found.notes)}.")
        except FileProblem as problem:
            tell(self.desk, str(problem))
            return False
        return True

    def recover(self, found: recovery.Found) -> bool:
        """Open what was left behind, or an earlier state, as work that is not saved."""
        try:
            document = self.desk.reading.artwork(found.file).document
        except FileProblem as problem:
            aside = recovery.set_aside(found.file)
            tell(self.desk, f"{problem}. It was put aside as {aside}")
            return False
        self.show(document, self._place_of(found), found.about.name)
        self.session.history.mark_unsaved()
        self.session.tell(News.FILE)
        if found.left:
            self.desk.autosave.tick()
            self.desk.autosave.wait()
            if self.desk.autosave.keeper.file is not None:
                recovery.keep_left(found)
        self.desk.notice(f"'{found.about.name}' is as it was then. Save it to keep it.")
        return True

    def _place_of(self, found: recovery.Found) -> Path | None:
        """Where recovered work is saved without asking: over the file that it was made of, unless that is newer. Earlier
        states are saved under a name of their own."""
        path = Path(found.about.path) if found.about.path else None
        try:
            older = path is not None and path.stat().st_mtime <= found.written
        except OSError:
            older = False
        return path if found.left and older else None

    # -- saving

    def save(self) -> bool:
        return self.save_to(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        start = Path(self._folder()) / f"{self.session.name}.volumen"
        path = ask_save_name(self.desk.dialog_parent, "Save as", str(start), FILTER, (".volumen",))
        return path is not None and self.save_to(path)

    def save_to(self, path: Path) -> bool:
        self.desk.canvas.end_unfinished()
        document = self.session.history.committed
        answer = self._clash(path)
        if answer == _OTHER_NAME:
            return self.save_as()
        if answer == _STAY:
            return False
        try:
            native.save(document, path, self.desk.link.sheet_png())
        except FileProblem as problem:
            tell(self.desk, str(problem))
            return False
        self._stamp, self._digest = stamp(path), digest(path)
        self._claim.take(path)
        self.session.saved(path, document)
        self.session.say(f"saved {path}")
        self.desk.autosave.clear()
        recovery.keep_copy(path)
        return True

    def _clash(self, path: Path) -> str:
        """Ask before writing over what another program, or another window, has written."""
        own = path == self.session.path
        now = stamp(path)
        if own and now is not None and now != self._stamp and digest(path) != self._digest:
            words = f"'{path.name}' was changed on disk since it was opened here."
        elif not own and held_elsewhere(path):
            words = f"'{path.name}' is open in another window of Volumen."
        else:
            return _OVER
        return ask(self.desk.dialog_parent, words, _OTHER_NAME, _OVER, _STAY)

    def may_leave(self) -> bool:
        """Ask what to do with unsaved work; True if the document may go."""
        if not self.session.unsaved:
            return True
        words = f"'{self.session.name}' has changes that are not saved."
        answer = ask(self.desk.dialog_parent, words, "Save", "Discard the changes", "Stay")
        return self.save() if answer == "Save" else answer != "Stay"

    def close(self) -> None:
        self._claim.release()

    def _folder(self) -> str:
        return str(self.session.path.parent if self.session.path else home())
