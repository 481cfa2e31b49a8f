"""CSS in SVG: style blocks, style attributes and presentation attributes, with inheritance."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import tinycss2
from lxml import etree

from volumen.formats.files import FileProblem

INHERITED = {
    "fill", "fill-opacity", "fill-rule", "clip-rule", "stroke", "stroke-width", "stroke-opacity", "stroke-linecap",
    "stroke-linejoin", "stroke-miterlimit", "stroke-dasharray", "stroke-dashoffset", "color", "visibility",
    "font-family", "font-size", "font-weight", "text-anchor", "paint-order", "marker-start", "marker-mid",
    "marker-end", "display",
}  # fmt: skip
_OWN = {
    "opacity",
    "mix-blend-mode",
    "clip-path",
    "mask",
    "filter",
    "transform",
    "stop-color",
    "stop-opacity",
    "display",
}
_KNOWN = INHERITED | _OWN
_MOST_RULES = 5000
_MOST_CSS = 2**19  # letters of style blocks
_MOST_ATTRIBUTE = 20_000  # letters of one style attribute
_MOST_WORK = 5_000_000


@dataclass(frozen=True, slots=True)
class Style:
    """The properties of an element: those it inherits and those it has of its own."""

    inherited: dict[str, str] = field(default_factory=dict)
    declared: dict[str, str] = field(default_factory=dict)

    def get(self, name: str) -> str | None:
        """A property as it holds here: declared, else inherited."""
        return self.declared.get(name) or self.inherited.get(name)

    def own(self, name: str) -> str | None:
        """A property as it is declared here; None if it is not."""
        return self.declared.get(name)


@dataclass(frozen=True, slots=True)
class _Rule:
    """All that a selector sets: each value with its rank, which grows along the sheet."""

    tag: str
    ident: str
    classes: tuple[str, ...]
    weight: tuple[int, int, int]
    values: dict[str, tuple[int, str]]


class Sheet:
    """The rules of all style blocks: selectors by element, class and id, alone or joined, in lists."""

    def __init__(self, css: str, missing: Counter[str]) -> None:
        self.rules: dict[tuple[str, str, tuple[str, ...]], _Rule] = {}
        self._by_part: dict[str, list[_Rule]] = {}  # by "#id", ".class", "element" or "": one of what a rule asks for
        self._rank = 0
        self.missing = missing
        self.work = 0  # comparisons of elements with rules, and letters of style attributes
        self._attributes: dict[str, dict[str, str]] = {}
        if len(css) > _MOST_CSS:
            missing[f"style beyond {_MOST_CSS >> 10} KB"] += 1
        for rule in _rules(css[:_MOST_CSS], missing):
            if len(self.rules) >= _MOST_RULES:
                missing[f"CSS rules beyond {_MOST_RULES}"] += 1
                break
            if rule.type != "qualified-rule":
                missing["CSS rules with @ and faulty ones"] += 1
                continue
            values = declarations(rule.content)
            for selector in tinycss2.serialize(rule.prelude).split(",", _MOST_RULES)[:_MOST_RULES]:
                self._add(selector.strip(), values)

    def _add(self, selector: str, values: dict[str, str]) -> None:
        if not selector or (any(c in selector for c in " >+~:[*") and selector != "*"):
            self.missing["CSS selectors other than element, class and id"] += 1
            return
        tag, ident, classes, kind, word = "", "", [], "t", ""
        for c in selector + "\0":
            if c in ".#\0":
                if kind == "t":
                    tag = "" if word == "*" else word
                elif kind == ".":
                    classes.append(word)
                else:
                    ident = word
                kind, word = c, ""
            else:
                word += c
        key = (tag, ident, tuple(classes))
        rule = self.rules.get(key)
        if rule is None:
            rule = self.rules[key] = _Rule(*key, (bool(ident), len(classes), bool(tag)), {})
            part = f"#{ident}" if ident else f".{classes[0]}" if classes else tag
            self._by_part.setdefault(part, []).append(rule)
        self._rank += 1
        rule.values.update((name, (self._rank, value)) for name, value in values.items())

    def _matching(self, element: Any) -> dict[str, str]:
        """What the rules that match an element set: the weightiest wins, of equals the last."""
        tag, ident = etree.QName(element).localname, element.get("id") or ""
        classes = set((element.get("class") or "").split())
        best: dict[str, tuple[tuple[int, int, int], int, str]] = {}
        for part in ("", tag, f"#{ident}", *(f".{c}" for c in classes)):
            found = self._by_part.get(part, ())
            self._count(len(found))
            for rule in found:
                if rule.tag in ("", tag) and rule.ident in ("", ident) and classes.issuperset(rule.classes):
                    for name, (rank, value) in rule.values.items():
                        if name not in best or best[name][:2] < (rule.weight, rank):
                            best[name] = (rule.weight, rank, value)
        return {name: value for name, (_, _, value) in best.items()}

    def _count(self, work: int) -> None:
        self.work += work
        if self.work > _MOST_WORK:
            raise FileProblem("the SVG has too many style rules for its elements; it is not opened")

    def _declared(self, text: str) -> dict[str, str]:
        """The declarations of a style attribute; many elements have the same."""
        known = self._attributes.get(text)
        if known is None:
            self._count(len(text))
            try:
                known = declarations(tinycss2.parse_component_value_list(text[:_MOST_ATTRIBUTE]))
            except RecursionError:
                self.missing["style with parentheses nested too deep"] += 1
                known = {}
            if len(text) > _MOST_ATTRIBUTE:
                self.missing[f"style attributes beyond {_MOST_ATTRIBUTE} letters"] += 1
            self._attributes[text] = known
        return known

    def style_of(self, element: Any, parent: Style) -> Style:
        """The style of an element under its parent's."""
        inherited = dict(parent.inherited)
        inherited.update((k, v) for k, v in parent.declared.items() if k in INHERITED and k != "display")
        own = {k: v.strip() for k in element.keys() if k in _KNOWN and (v := element.get(k))}  # noqa: SIM118
        if self.rules:
            own.update(self._matching(element))
        if element.get("style"):
            own.update(self._declared(element.get("style")))
        for name in [k for k, v in own.items() if v == "inherit"]:
            del own[name]
            if name not in INHERITED and (value := parent.own(name)):
                own[name] = value
        return Style(inherited, own)


def _rules(css: str, missing: Counter[str]) -> list[Any]:
    try:
        return list(tinycss2.parse_stylesheet(css, skip_comments=True, skip_whitespace=True))
    except RecursionError:
        missing["style with parentheses nested too deep"] += 1
        return []


def declarations(content: Any) -> dict[str, str]:
    """Property -> value of a declaration list; later and important ones win."""
    out: dict[str, str] = {}
    important: dict[str, str] = {}
    for item in tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True):
        if item.type == "declaration" and item.lower_name in _KNOWN:
            value = tinycss2.serialize(item.value).strip()
            (important if item.important else out)[item.lower_name] = value
    return {**out, **important}
