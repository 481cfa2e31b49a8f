"""Demo artwork of the Harbour Museum of Kelder Sound, made by the scripts in this package."""

from __future__ import annotations

from collections.abc import Callable

from volumen.demo.anchor import anchor
from volumen.demo.ferry import ferry
from volumen.demo.foghorn import foghorn
from volumen.demo.harbour_map import harbour_map
from volumen.demo.jelly import jelly
from volumen.demo.knot import knot
from volumen.demo.kraken import kraken
from volumen.demo.letters import letters
from volumen.demo.mussel import mussel
from volumen.demo.net_float import net_float
from volumen.demo.porthole import porthole
from volumen.demo.rope import rope
from volumen.demo.rosette import rosette
from volumen.demo.seaglass import seaglass
from volumen.demo.tea_label import tea_label
from volumen.demo.tote import tote
from volumen.demo.urchin import urchin
from volumen.demo.wave import wave
from volumen.demo.whale import whale
from volumen.library import Document

DEMOS: dict[str, tuple[str, Callable[[], Document]]] = {
    "net-float": ("Glass net float: a cut-open ball under the lamp", net_float),
    "ferry": ("Ferry emblem: a flat mark made deep by slivers", ferry),
    "urchin": ("Sea-urchin sticker: live cuts, insets and one contour round everything", urchin),
    "tote": ("Tote bag print: evenly spaced bars, repeated birds and knockouts on cloth", tote),
    "tea-label": ("Tea tin label: a copper ink of its own, bleed and a die line, ready for the press", tea_label),
    "mussel": ("Mussel shell: a gradient mesh fitted to the photograph beside it", mussel),
    "rosette": ("Compass rosette: six linked parts that read as hollow", rosette),
    "anchor": ("Folded anchor: one ribbon gradient in every face", anchor),
    "jelly": ("Moon jelly: a bell that shines on dark water over a dull rock", jelly),
    "porthole": ("Porthole clock: brass, enamel, engraved numerals and a ring that closes", porthole),
    "whale": ("Whale card: sheets of cut paper whose shadows follow from their lift", whale),
    "seaglass": ("Sea glass: faceted translucent stones without a hairline, each tinted by one control", seaglass),
    "kraken": ("Kraken: a mascot with a shine in a cloud of ink that fades to nothing", kraken),
    "foghorn": ("Foghorn poster: live bursts of rays, radial and parallel, held by shapes that stay shapes", foghorn),
    "knot": ("Rope knot mark: three linked parts that seem to fold over one another", knot),
    "letters": ("Kelder letters: solid block letters on the quay, every face live, and the same as lines", letters),
    "rope": ("Rope border: a garland of rope and leaves along its paths, with a bow, round a notice", rope),
    "map": ("Harbour map: a flat picture lit in one step as cut paper, and finished by hand", harbour_map),
    "wave": ("Breaking-wave icon: one mark flat and shaded, large and tiny", wave),
}
