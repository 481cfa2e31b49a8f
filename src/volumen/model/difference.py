"""What differs between two states of a document: found once by who sends the changes, and passed along from there."""

from __future__ import annotations

from dataclasses import dataclass, field

Span = tuple[int, int]  # how many members of a sequence are the same at its start, and at its end


@dataclass(frozen=True, slots=True)
class Difference:
    """``spans`` tells for each node whose children changed how many of them stayed at both ends; ``gone`` are the ids
    of nodes that are no longer there."""

    spans: dict[int, Span] = field(default_factory=dict)
    gone: list[int] = field(default_factory=list)


def then(first: Span | None, second: Span) -> Span:
    """What surely stayed over two changes, one after the other."""
    return second if first is None else (min(first[0], second[0]), min(first[1], second[1]))


def fitted_span(span: Span, old: int, new: int) -> Span:
    """A span of sequences of ``old`` and ``new`` members: its two ends do not meet."""
    low = min(span[0], old, new)
    return low, min(span[1], min(old, new) - low)
