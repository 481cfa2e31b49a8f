"""Undo as a list of roots. A gesture (a drag, a scrub) previews many documents and leaves one step."""

from __future__ import annotations

from dataclasses import dataclass

from volumen.model.nodes import Document

LIMIT = 1000


Chosen = tuple[int, ...]  # ids of what was selected


@dataclass(slots=True)
class Step:
    """A document, the words for what led to it, and what was selected before that and when it was last left."""

    document: Document
    label: str
    before: Chosen = ()
    after: Chosen = ()


class History:
    """The states of a document, and the gesture under way."""

    def __init__(self, document: Document) -> None:
        self._steps = [Step(document, "open")]
        self._at = 0
        self._gesture: Document | None = None
        self._saved: Document | None = document

    @property
    def document(self) -> Document:
        """What is shown now: the gesture's preview if one is going on."""
        return self._gesture if self._gesture is not None else self._steps[self._at].document

    @property
    def committed(self) -> Document:
        """The last finished step, which a going gesture started from."""
        return self._steps[self._at].document

    @property
    def in_gesture(self) -> bool:
        """Whether a gesture shows a state that is not a step yet."""
        return self._gesture is not None

    def preview(self, document: Document) -> None:
        """Show a moment of a gesture."""
        self._gesture = document

    def cancel(self) -> None:
        """Drop the gesture: the last finished step shows again."""
        self._gesture = None

    def commit(self, document: Document, label: str, chosen: Chosen = ()) -> bool:
        """Make ``document`` the next step; ``chosen`` was selected until then. False if nothing changed."""
        self._gesture = None
        if document is self.committed:
            return False
        del self._steps[self._at + 1 :]
        self._steps.append(Step(document, label, chosen, chosen))
        if len(self._steps) > LIMIT:
            del self._steps[0]
        self._at = len(self._steps) - 1
        return True

    def amend(self, document: Document) -> None:
        """Let the last finished step have led to ``document``: something that follows what it changed."""
        self._steps[self._at].document = document

    @property
    def undo_label(self) -> str | None:
        """What undo would take back; None for nothing."""
        return self._steps[self._at].label if self._at > 0 else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back; None for nothing."""
        return self._steps[self._at + 1].label if self._at + 1 < len(self._steps) else None

    @property
    def saved(self) -> Document | None:
        """The document as it is on disk, or as it was opened; None where it is on none."""
        return self._saved

    def back(self, steps: int) -> Step:
        """The state some steps ago, or the first."""
        return self._steps[max(self._at - steps, 0)]

    def undo(self, chosen: Chosen = ()) -> Chosen:
        """One step back; a gesture under way goes. ``chosen`` is selected now; what was selected before that step."""
        self._gesture = None
        if self._at == 0:
            return chosen
        left = self._steps[self._at]
        left.after = chosen
        self._at -= 1
        return left.before

    def redo(self, chosen: Chosen = ()) -> Chosen:
        """One step forward; a gesture under way goes. ``chosen`` is selected now; what was selected when that step was
        left."""
        self._gesture = None
        if self._at + 1 == len(self._steps):
            return chosen
        self._at += 1
        return self._steps[self._at].after

    def mark_saved(self, document: Document | None = None) -> None:
        """Remember which state is on disk; None for the one now."""
        self._saved = document if document is not None else self.committed

    def mark_unsaved(self) -> None:
        """As after a recovery: what is shown is on no disk under its name."""
        self._saved = None

    @property
    def changed(self) -> bool:
        """Whether the state now differs from what is on disk."""
        return self.committed is not self._saved
