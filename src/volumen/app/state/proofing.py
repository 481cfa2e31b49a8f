"""What hangs on the wall of proofs, and how it is proofed."""

from __future__ import annotations

import msgspec

from volumen.colour.press_settings import Press
from volumen.colour.srgb import from_hex
from volumen.devices.cutter import Cutter
from volumen.devices.garment import GarmentPrinter
from volumen.devices.press import PressRun
from volumen.devices.views import Device, DeviceView
from volumen.stock.stocks import Cloth, InkMode, Stock, StockView, shipped_stocks

SMALL = (128, 64, 32, 16)
MOST_SIZES, LARGEST = 12, 1024


class Proofing(msgspec.Struct, frozen=True):
    """``shown``: the proofs on the wall by name; ``large``: the one that fills it, if any. ``sizes``: small pictures in
    pixels, of the selection ``alone`` or of the sheet. The artwork is
    compared ``against`` another state, of so many ``steps`` ago, ``by`` a wipe line, side by side or as a difference. It
    is seen on ``stock`` (None: the first that ships) of a ``colour``, with ``ink`` as it is laid on cloth,
    fitted to it or in its ``own_size``. ``run``, ``printer`` and ``cutter`` are the simulated devices; on the
    first a ``written`` file is printed instead of the artwork, if there is one. The rest belongs to the press."""

    shown: tuple[str, ...] = ("as drawn", "flat", "values only", "press proof", "small sizes")
    large: str | None = None
    press: Press = Press()
    veil: bool = True
    hidden_plates: tuple[int, ...] = ()
    coloured: bool = True
    sizes: tuple[int, ...] = SMALL
    alone: bool = False
    against: str = "as saved"
    steps: int = 1
    by: str = "wipe"
    stock: Stock | None = None
    colour: str = ""
    ink: InkMode = "underbase"
    own_size: bool = False
    run: PressRun = PressRun()
    printer: GarmentPrinter = GarmentPrinter()
    cutter: Cutter = Cutter()
    written: str = ""

    @property
    def on(self) -> Stock:
        """The stock that is chosen."""
        return self.stock or shipped_stocks()[0]

    @property
    def chosen_colour(self) -> str:
        """The colour of the stock: the chosen one, or its first; empty where it has none."""
        return self.colour if self.colour in self.on.colours else next(iter(self.on.colours), "")

    def device_view(self, device: Device) -> DeviceView:
        """What is asked of the worker for the artwork as a device makes it."""
        cloth = from_hex(self.on.colours.get(self.chosen_colour, "#1f3a57"))
        written = self.written if device == "printed" else ""
        return DeviceView(device, self.press, self.run, self.printer, self.cutter, cloth, written)

    def stock_view(self, colour: str, read: bool = False) -> StockView:
        """What is asked of the worker for the artwork on this stock."""
        ink = self.ink if isinstance(self.on.thing, Cloth) else "print"
        return StockView(self.on, colour, ink, self.own_size, read)


AGAINST = ("as saved", "steps ago", "the reference", "a file …")
BY = ("wipe", "beside", "difference")


def sizes_of(text: str) -> tuple[int, ...]:
    """Sizes in pixels as people list them, each once, large ones first. Raises ValueError with the reason."""
    words = [w for w in text.replace(",", " ").replace(";", " ").replace("px", " ").split() if w]
    if not all(w.isdecimal() for w in words) or not words:
        raise ValueError("list whole numbers of pixels, such as 64, 32, 16")
    found = sorted({int(w) for w in words}, reverse=True)
    if found[0] > LARGEST or found[-1] < 1 or len(found) > MOST_SIZES:
        raise ValueError(f"up to {MOST_SIZES} sizes from 1 to {LARGEST} pixels")
    return tuple(found)
