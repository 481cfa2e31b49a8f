"""Demo artwork of the Harbour Museum of Kelder Sound, made by the scripts in this package."""

from __future__ import annotations

from collections.abc import Callable

from volumen.demo.anchor import anchor
from volumen.demo.ferry import ferry
from volumen.demo.mussel import mussel
from volumen.demo.net_float import net_float
from volumen.demo.rosette import rosette
from volumen.demo.tote import tote
from volumen.demo.urchin import urchin
from volumen.demo.wave import wave
from volumen.model.nodes import Document

DEMOS: dict[str, tuple[str, Callable[[], Document]]] = {
    "net-float": ("Glass net float: a cut-open ball under the lamp", net_float),
    "ferry": ("Ferry emblem: a flat mark made deep by slivers", ferry),
    "urchin": ("Sea-urchin sticker: live cuts, insets and one contour round everything", urchin),
    "tote": ("Tote bag print: evenly spaced bars, repeated birds and knockouts on cloth", tote),
    "mussel": ("Mussel shell: a gradient mesh fitted to the photograph beside it", mussel),
    "rosette": ("Compass rosette: six linked parts that read as hollow", rosette),
    "anchor": ("Folded anchor: one ribbon gradient in every face", anchor),
    "wave": ("Breaking-wave icon: one mark flat and shaded, large and tiny", wave),
}
