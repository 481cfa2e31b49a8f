"""Demo artwork of the Harbour Museum of Kelder Sound, made by the scripts in this package."""

from __future__ import annotations

from collections.abc import Callable

from volumen.demo.ferry import ferry
from volumen.demo.net_float import net_float
from volumen.model.nodes import Document

DEMOS: dict[str, tuple[str, Callable[[], Document]]] = {
    "net-float": ("Glass net float: a cut-open ball under the lamp", net_float),
    "ferry": ("Ferry emblem: a flat mark made deep by slivers", ferry),
}
