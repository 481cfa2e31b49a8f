"""Values brought to the declared type and range of their fields, in one place for all that is set by hand.

Whatever a field, a slider, a key or a tool puts into a document passes here: whole numbers become whole, numbers
out of range come to its end, what is no number (or no choice there is) gives way to what was there before. So what
stands in a document can always be written, and read again.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache
from types import NoneType, UnionType
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

import msgspec

from volumen.model import limits
from volumen.model.sequences import same_ends

replace = msgspec.structs.replace
Fit = Callable[[Any, Any], Any]  # (value, what was there before or None) -> a value of the declared type


class NotTaken(ValueError):
    """A value that no field of that kind can hold, where nothing was there before to keep instead."""


def fitted(value: Any, was: Any = None) -> Any:
    """A struct with all that it holds brought to type and range; the same object if it fits already.

    ``was`` is what stood in its place: what is the same object there, or stood elsewhere in it, is not looked at again.
    """
    if value is was:
        return value
    root = getattr(was, "root", None)
    if root is None:
        return _fitted(value, was)
    _moved.begin(root)
    try:
        return _fitted(value, was)
    finally:
        _moved.begin(None)


class _Moved:
    """Nodes by id as they stood in a document, for those that have another parent now; looked through when asked."""

    def __init__(self) -> None:
        self._root: Any = None
        self._nodes: dict[int, Any] | None = None

    def begin(self, root: Any) -> None:
        """From now on it is about the nodes under a root; None ends it."""
        self._root, self._nodes = root, None

    def node(self, node_id: int) -> Any:
        """What stood anywhere under the root with an id; None if nothing did."""
        if self._nodes is None:
            self._nodes = {}
            stack = [self._root] if self._root is not None else []
            while stack:
                node = stack.pop()
                self._nodes[node.id] = node
                stack.extend(node.children)
        return self._nodes.get(node_id)


_moved = _Moved()


def _fitted(value: Any, was: Any) -> Any:
    if value is was:
        return value
    before = was if type(was) is type(value) else None
    changes: dict[str, Any] = {}
    for name, fit in _fits(type(value)):
        held = getattr(value, name)
        was_held = None if before is None else getattr(before, name)
        if before is not None and held is was_held:
            continue
        made = fit(held, was_held)
        if made is not held:
            changes[name] = made
    return replace(value, **changes) if changes else value


@cache
def is_whole(kind: type, field: str) -> bool:
    """Whether a field takes whole numbers alone."""
    hint = get_type_hints(kind).get(field)
    return hint is int or (hint is not None and int in get_args(hint) and float not in get_args(hint))


_known: dict[Any, tuple[tuple[str, Fit], ...]] = {}


def _fits(kind: Any) -> tuple[tuple[str, Fit], ...]:
    """How each field of a struct type is brought to its type and range."""
    if kind not in _known:
        _known[kind] = _fits_of(kind)
    return _known[kind]


def _fits_of(kind: Any) -> tuple[tuple[str, Fit], ...]:
    hints = get_type_hints(kind)
    return tuple((f, _fit_for(hints[f], kind.__name__, f)) for f in kind.__struct_fields__)


def _fit_for(hint: Any, kind: str, field: str) -> Fit:
    origin, args = get_origin(hint), get_args(hint)
    if origin is Literal:
        return lambda v, was: v if v in args else _kept(was, f"{field} can not be {v!r}")
    if origin is tuple:
        if args[-1] is not Ellipsis:
            return _fixed(args, kind, field)
        return _rows(_fit_for(args[0], kind, field), limits.most(kind, field), field)
    if origin in (Union, UnionType):
        inner = [a for a in args if a is not NoneType]
        if all(isinstance(a, type) and issubclass(a, msgspec.Struct) for a in inner):
            return lambda v, was: v if v is None else fitted(v, was)
        fit = _fit_for(inner[0], kind, field)
        return lambda v, was: v if v is None else fit(v, was)
    if hint is bool:
        return lambda v, was: v if isinstance(v, bool) else bool(v)
    if hint in (int, float):
        return _number(hint is int, *limits.limits(kind, field, hint is int))
    if hint is str:
        return _text
    if isinstance(hint, type) and issubclass(hint, msgspec.Struct):
        return fitted
    return lambda v, was: v


def _number(whole: bool, low: float, high: float) -> Fit:
    def fit(value: Any, was: Any) -> Any:
        if type(value) is not (int if whole else float):
            try:
                value = float(value)
            except (TypeError, ValueError, OverflowError) as error:
                return _kept(was, f"{value!r} is not a number", error)
        if not math.isfinite(value):
            return _kept(was, f"{value} is not a number")
        held = min(max(value, low), high)
        return value if held == value and type(value) is (int if whole else float) else _typed(held, whole)

    return fit


def _typed(value: float, whole: bool) -> float:
    return round(value) if whole else float(value)


def _text(value: Any, was: Any) -> Any:
    """Text that can be written as UTF-8, of a length that can be read."""
    if not isinstance(value, str):
        return _kept(was, f"{value!r} is not text")
    if not value.isascii():
        clean = value.encode("utf-8", "replace").decode("utf-8")
        value = value if clean == value else clean
    return value if len(value) <= limits.MAX_TEXT else value[: limits.MAX_TEXT]


def _kept(was: Any, why: str, cause: Exception | None = None) -> Any:
    if was is None:
        raise NotTaken(why) from cause
    return was


def _fixed(args: tuple[Any, ...], kind: str, field: str) -> Fit:
    fits = [_fit_for(a, kind, field) for a in args]

    def fit(value: Any, was: Any) -> Any:
        if value is was:
            return value
        before = was if isinstance(was, tuple) and len(was) == len(fits) else (None,) * len(fits)
        made = tuple([f(v, b) for f, v, b in zip(fits, value, before, strict=True)])
        return value if all(a is b for a, b in zip(made, value, strict=True)) else made

    return fit


def _rows(inner: Fit, most: int, field: str) -> Fit:
    """Of a long row only what is not the same as before is looked at; nodes are told by their ids."""

    def fit(value: Any, was: Any) -> Any:
        if value is was or not value:
            return value
        if len(value) > most:
            raise NotTaken(f"{len(value):,} {field.replace('_', ' ')} are too many; {most:,} are possible")
        before = was if isinstance(was, tuple) else ()
        low, end = same_ends(before, value)
        stop = len(value) - end
        ids = {b.id: b for b in before[low : len(before) - end] if hasattr(b, "id")}

        def old(k: int) -> Any:
            if hasattr(value[k], "id"):
                found = ids.get(value[k].id)
                return found if found is not None or not hasattr(value[k], "children") else _moved.node(value[k].id)
            return before[k] if k < len(before) - end else None

        made = [inner(value[k], old(k)) for k in range(low, stop)]
        if all(m is value[low + k] for k, m in enumerate(made)):
            return value
        return (*value[:low], *made, *value[stop:])

    return fit
