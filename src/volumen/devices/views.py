"""What is asked of the devices for the wall of proofs."""

from __future__ import annotations

from typing import Literal

import msgspec

from volumen.colour.press_settings import Press
from volumen.devices.cutter import Cutter
from volumen.devices.garment import GarmentPrinter
from volumen.devices.press import PressRun

Device = Literal["printed", "underbase", "cut out"]


class DeviceView(msgspec.Struct, frozen=True, tag="device"):
    """Artwork as a device makes it; ``cloth`` (encoded sRGB) lies under a white underbase. What is printed may be a
    ``file`` that was written: a PDF, or a TIFF in inks."""

    device: Device
    press: Press = Press()
    run: PressRun = PressRun()
    printer: GarmentPrinter = GarmentPrinter()
    cutter: Cutter = Cutter()
    cloth: tuple[float, float, float] = (0.12, 0.23, 0.34)
    file: str = ""
