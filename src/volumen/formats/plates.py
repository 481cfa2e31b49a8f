"""A picture taken apart for a press: the process colours as pixels, and a plate for each spot ink that is used."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from volumen.formats.bitmaps import Levels
from volumen.picture.instructions import Picture
from volumen.picture.spots import plate_picture, process_picture, used_inks
from volumen.render.raster import render_bytes, render_words

Spots = tuple[tuple[str, Levels], ...]  # names of inks and their covers (h, w)


def plates(picture: Picture, scale: float, fine: bool, tell: Callable[[float], None]) -> tuple[Levels, Spots]:
    """Straight RGBA (h, w, 4) of the process colours and the covers of spot inks, in 8 or (``fine``) 16 bits."""
    used = used_inks(picture)
    parts = len(used) + 1

    def drawn(part: Picture, number: int) -> Levels:
        def told(share: float) -> None:
            tell((number + share) / parts)

        return render_words(part, scale, told) if fine else render_bytes(part, scale, told)

    image = drawn(process_picture(picture) if used else picture, 0)
    names = {swatch: ink.name for swatch, ink in used.items()}
    covers = [inverted(drawn(plate_picture(picture, s), k)[..., 0]) for k, s in enumerate(used, 1)]
    return image, tuple(zip(names.values(), covers, strict=True))


def inverted(levels: Levels) -> Levels:
    """Greys as covers, and covers as greys."""
    if levels.dtype == np.uint8:
        return np.asarray(255 - levels, np.uint8)
    return np.asarray(65535 - levels, np.uint16)


def as_grey(cover: Levels) -> Levels:
    """A cover (h, w) as a picture (h, w, 4): black where it is solid, on white."""
    grey = inverted(cover)
    made = np.full((*grey.shape, 4), np.iinfo(grey.dtype).max, grey.dtype)
    made[..., :3] = grey[..., None]
    return made if made.dtype == np.uint16 else made.astype(np.uint8, copy=False)
