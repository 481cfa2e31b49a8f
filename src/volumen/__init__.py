"""Volumen: volume, light and material for vector artwork.

    import volumen

    sheet = volumen.new(200, 200)
    sheet = volumen.add(sheet, volumen.ellipse(50, 50, 100, 100, volumen.fill("#c8402a"), volumen.Body("ball")))
    volumen.render_file(sheet, "ball.png", width=800)

``docs/library.md`` tells the rest. Names are loaded when they are first asked for, so that ``import volumen`` is quick.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

__version__ = "0.1.0"

if TYPE_CHECKING:
    from volumen.library import (
        Adjust,
        Blur,
        Body,
        CastShadow,
        ContactShadow,
        Feather,
        Fill,
        GroundGlow,
        InnerGlow,
        InnerShadow,
        Line,
        Occlusion,
        OuterGlow,
        Relief,
        Rim,
        Seams,
        Sliver,
        Speckle,
        add,
        check,
        ellipse,
        fill,
        group,
        light,
        line,
        new,
        rectangle,
        render_file,
        render_pixels,
        save,
        shape,
        text,
    )
    from volumen.opening import open, open_file

__all__ = [
    "Adjust", "Blur", "Body", "CastShadow", "ContactShadow", "Feather", "Fill", "GroundGlow", "InnerGlow",
    "InnerShadow", "Line", "Occlusion", "OuterGlow", "Relief", "Rim", "Seams", "Sliver", "Speckle", "__version__",
    "add", "check", "ellipse", "fill", "group", "light", "line", "new", "open", "open_file", "rectangle",
    "render_file", "render_pixels", "save", "shape", "text",
]  # fmt: skip


def __getattr__(name: str) -> object:
    if name in __all__:
        home = "opening" if name.startswith("open") else "library"
        return getattr(import_module(f"volumen.{home}"), name)
    raise AttributeError(f"module 'volumen' has no attribute '{name}'")
