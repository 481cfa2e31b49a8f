"""The proofs that can hang on the wall: one row each."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from volumen.app.state.proofing import Proofing
from volumen.colour.press import INKS
from volumen.colour.press_views import Kind, ProofView
from volumen.devices.views import Device, DeviceView


class ProofKind(NamedTuple):
    """``name`` is what people call it, ``view`` what the worker makes of the picture; ``said`` tells its figures."""

    name: str
    tip: str
    view: Kind | None = "as drawn"  # None: it asks for pictures of its own
    flat: bool = False
    device: Device | None = None
    said: Callable[[dict[str, float], Proofing], str] = lambda figures, p: ""


def _gamut(figures: dict[str, float], p: Proofing) -> str:
    if not figures["out"]:
        return f"{p.press.name}: all within gamut"
    return f"{p.press.name}: {figures['out']:.1f} % out of gamut, worst {figures['worst']:.0f}"


def _ink(figures: dict[str, float], p: Proofing) -> str:
    over = f", {figures['over']:.1f} % over" if figures["over"] >= 0.05 else ""
    return f"most {figures['most']:.0f} of {p.press.ink_limit:.0f} %{over}, mean {figures['mean']:.0f}"


def _plates(figures: dict[str, float], p: Proofing) -> str:
    if not p.hidden_plates:
        return "all inks"
    return "without " + ", ".join(INKS[k] if k < len(INKS) else f"spot ink {k - 3}" for k in p.hidden_plates)


def _white(figures: dict[str, float], p: Proofing) -> str:
    bare = f", {figures['bare']:.1f} mm² too thin for white" if figures["bare"] >= 0.05 else ""
    return f"white {figures['white'] / 100:.1f} cm² under {figures['ink'] / 100:.1f} of ink{bare}"


def _cut(figures: dict[str, float], p: Proofing) -> str:
    tight = f", {figures['tight']:.0f} places too tight, down to {figures['least']:.2f} mm" if figures["tight"] else ""
    return f"{figures['cut']:.0f} mm in {figures['seconds']:.0f} s{tight}"


def _printed(figures: dict[str, float], p: Proofing) -> str:
    return f"{Path(p.written).name}, {figures['wide']:.0f} x {figures['high']:.0f} mm" if "wide" in figures else ""


KINDS = (
    ProofKind("as drawn", "The artwork under its lamps"),
    ProofKind("flat", "Without light and finish", flat=True),
    ProofKind("values only", "Greys of the same lightness: whether it reads without colour", "values"),
    ProofKind("press proof", "As the press prints it; stripes lie on what it cannot reach", "press", said=_gamut),
    ProofKind("total ink", "How much ink lies where, against the limit of the paper", "ink", said=_ink),
    ProofKind("plates", "The printing plates, singly or together; the ink under the pointer", "plates", said=_plates),
    ProofKind("compare", "With an earlier state, the saved one, a reference or another file", None),
    ProofKind("stock", "On the thing that it will live on, under the same lamp", None),
    ProofKind("all colours", "On every colour that the stock is offered in", None),
    ProofKind(
        "printed",
        "The sheet as it comes from a simulated press: dot gain, plates astray, the white of the paper",
        device="printed",
        said=_printed,
    ),
    ProofKind(
        "underbase", "The white that a simulated garment printer lays under the ink", device="underbase", said=_white
    ),
    ProofKind("cut out", "The line that a simulated cutter follows, and the sticker", device="cut out", said=_cut),
    ProofKind("small sizes", "Pixel by pixel, on light and on dark", None),
)
BY_NAME = {k.name: k for k in KINDS}


def view_for(kind: ProofKind, p: Proofing, spots: int = 0) -> ProofView | DeviceView | None:
    """What is asked of the worker for a proof of artwork with so many spot inks."""
    if kind.device is not None:
        return p.device_view(kind.device)
    if kind.view in (None, "as drawn"):
        return None
    assert kind.view is not None
    plates = tuple(k for k in range(len(INKS) + spots) if k not in p.hidden_plates)
    return ProofView(kind.view, p.press, p.veil, plates, p.coloured)
