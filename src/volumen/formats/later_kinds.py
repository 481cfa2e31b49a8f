"""Files of a newer Volumen within the same format: ingredients unknown here are laid aside when such a file is read,
and put back where they were when it is saved."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, get_args

import msgspec

from volumen.model.ingredients import Ingredient
from volumen.model.later import Later
from volumen.model.nodes import Document

_KNOWN = frozenset(str(kind.__struct_config__.tag) for kind in get_args(Ingredient))


def laid_aside(data: bytes) -> tuple[bytes, tuple[Later, ...]]:
    """A document's JSON without ingredients of unknown kinds, and those."""
    whole = msgspec.json.decode(data)
    aside: list[Later] = []
    for node in _nodes(whole):
        recipe = node.get("recipe")
        if not isinstance(recipe, list):
            continue
        for index, i in enumerate(recipe):
            if isinstance(i, dict) and isinstance(i.get("type"), str) and i["type"] not in _KNOWN:
                aside.append(Later(int(node["id"]), index, i["type"], msgspec.json.encode(i).decode()))
        node["recipe"] = [i for i in recipe if not isinstance(i, dict) or i.get("type") in _KNOWN]
    return msgspec.json.encode(whole), tuple(aside)


def put_back(data: bytes, later: tuple[Later, ...]) -> bytes:
    """A document's JSON with ingredients that were laid aside where they were, of nodes that are still there."""
    whole = msgspec.json.decode(data)
    whole["document"].pop("later", None)
    by_id = {node["id"]: node for node in _nodes(whole)}
    for i in later:
        if i.node in by_id:
            by_id[i.node]["recipe"].insert(i.index, msgspec.json.decode(i.data))
    return msgspec.json.encode(whole)


def told(document: Document) -> list[str]:
    """In words, what of a newer Volumen is in a document."""
    kinds = ", ".join(dict.fromkeys(i.kind for i in document.later))
    return [f"a newer Volumen wrote this file: {kinds} is not shown here, and kept when it is saved"] if kinds else []


def _nodes(whole: Any) -> Iterator[dict[str, Any]]:
    document = whole.get("document") if isinstance(whole, dict) else None
    stack = [document.get("root")] if isinstance(document, dict) else []
    while stack:
        node = stack.pop()
        if not isinstance(node, dict) or not isinstance(node.get("id"), int):
            continue
        yield node
        children = node.get("children")
        stack += children if isinstance(children, list) else []
