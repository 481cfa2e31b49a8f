"""What lift means in a document: over what carries a sheet, or over all that lies beneath."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.model.nodes import Document


def switched(document: Document) -> tuple[str, Document]:
    """The document in which lifts add up if they did not, and the other way round, with what the step is called."""
    adds = not document.lifts_add_up
    return "lifts add up" if adds else "lifts over all beneath", replace(document, lifts_add_up=adds)
