"""PDF export: shadings, soft masks and transparency groups in an sRGB ICC space.

Blurs, soft shadows and the blend modes that a widespread renderer draws wrongly become images with a soft
mask, at a stated resolution; everything else stays vector.
"""

from __future__ import annotations

import io
import math
from datetime import datetime
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray

from volumen.colour.press_settings import Press
from volumen.formats.options import BAKE_DPI, FIELD_DPI
from volumen.formats.pdf.conic import conic_shadings
from volumen.formats.pdf.mesh import mesh_shadings
from volumen.formats.pdf.objects import (
    concat,
    fill_colour,
    image_with_mask,
    num,
    nums,
    path_operators,
    shadings,
    srgb_profile,
)
from volumen.formats.pdf.page import PT, Page, describe
from volumen.formats.pdf.press import add_intent, add_version, all_plates, rendering_intent, separation
from volumen.formats.pdf.text import Fonts
from volumen.geometry.affine import digits_for, multiply
from volumen.geometry.engine import outline_of_line
from volumen.geometry.path import Box, grow_box, whole_pixels
from volumen.picture.bounds import item_box, items_box
from volumen.picture.instructions import (
    Chunk,
    Clip,
    FillPath,
    FillText,
    Item,
    Layer,
    Picture,
    Soft,
    StrokePath,
    shade_colour,
)
from volumen.picture.purity import is_patched, needs_backdrop
from volumen.picture.spots import ink_of, used_inks
from volumen.render.exact.pixel_fills import field_image
from volumen.render.raster import MAX_PIXELS, render_float, straight_bytes
from volumen.shading.mesh import MeshError
from volumen.shading.mesh_paints import mesh_of
from volumen.shading.paint import Conic, Linear, Meshed, Radial, Solid, is_field
from volumen.shading.ramp import effective_paint

Array, Dictionary, Name = pikepdf.Array, pikepdf.Dictionary, pikepdf.Name
_CAPS = {"butt": 0, "round": 1, "square": 2}
_JOINS = {"miter": 0, "round": 1, "bevel": 2}
_HAIR = 1e-3  # of a pixel
_MODES = {
    "color-dodge": "ColorDodge", "color-burn": "ColorBurn", "hard-light": "HardLight", "soft-light": "SoftLight",
}  # fmt: skip


def pdf_bytes(
    picture: Picture, title: str = "", dpi: float = BAKE_DPI, page: Page | None = None, made: datetime | None = None,
    press: Press | None = None, text: bool = False,
) -> bytes:  # fmt: skip
    """The picture as a one-page PDF 1.7, or for a ``press`` as PDF/X-4; ``dpi`` is the resolution of what must become
    pixels. ``page`` tells what of it is cut off, and which marks lie round it; ``made`` is the time that it is dated
    with, if any. ``text``: words stay text, with their letters embedded, where they are filled with one colour; the
    others are outlines. Raises ProfileProblem."""
    return _Writer(picture, dpi, page or Page(), press, text).tobytes(title, made)


class _Writer:
    def __init__(self, picture: Picture, dpi: float, page: Page, press: Press | None, text: bool) -> None:
        self.picture, self.press = picture, press
        self.dpi, self.page, self.margin = dpi, page, page.margin
        self.pdf = pikepdf.new()
        profile = pikepdf.Stream(self.pdf, srgb_profile())
        profile.stream_dict = Dictionary(N=3)
        self.space = self.pdf.make_indirect(Array([Name.ICCBased, self.pdf.make_indirect(profile)]))
        self.resources = self.pdf.make_indirect(
            Dictionary(
                ColorSpace=Dictionary(S=self.space), ExtGState=Dictionary(), XObject=Dictionary(), Shading=Dictionary()
            )
        )
        self.states: dict[tuple[float, str, bool], str] = {}
        self.fonts = Fonts(self.pdf, self.resources) if text else None
        self.count = 0
        self.spots: dict[int, tuple[str, Any]] = {}
        for swatch, ink in used_inks(picture).items():
            space = separation(self.pdf, ink, self.space)
            self.spots[swatch] = (self._name("P", "ColorSpace", space), space)

    def tobytes(self, title: str, made: datetime | None) -> bytes:
        p, cut = self.picture, self.page
        content = concat((PT, 0, 0, -PT, self.margin * PT, (p.height + self.margin) * PT))
        content += f"q 0 0 {nums(p.width, p.height)} re W n\n"
        ground = ""
        if (c := p.ground) is not None:
            ground = f"q {self._state(c.a, 'normal')}{fill_colour(c.rgb)} 0 0 {nums(p.width, p.height)} re f Q\n"
        # The page is a group of its own: artwork on a clear ground must not blend with a viewer's paper.
        content += ground + self._items(p.items, at_root=True) + "Q\n"
        if self.press is not None:  # blended in sRGB as on the screen, then brought to the inks as one
            box = cut.boxes(p.width, p.height, whole=True)["MediaBox"]
            drawn = self._name("X", "XObject", self._form(content, box, self._group()))
            content = f"{rendering_intent(self.press)}/{drawn} Do\n"
            content += f"q {concat((PT, 0, 0, -PT, self.margin * PT, (p.height + self.margin) * PT))}"
            self.resources.ColorSpace["/All"] = all_plates(self.pdf)
            content += cut.marks("/All CS 1 SCN") + "Q\n"
        else:
            content += cut.marks()
        boxes = cut.boxes(p.width, p.height, whole=self.press is not None)
        stream = pikepdf.Stream(self.pdf, content.encode("ascii"))
        page = Dictionary(Type=Name.Page, Contents=stream, Resources=self.resources, **boxes)
        if self.press is None:  # a page for the press has the space of its output intent
            page.Group = self._group()
        if self.fonts is not None:
            self.fonts.embed()
        self.pdf.pages.append(pikepdf.Page(self.pdf.make_indirect(page)))
        describe(self.pdf, title, made)
        out = io.BytesIO()
        modes = {"compress_streams": True, "object_stream_mode": pikepdf.ObjectStreamMode.generate}
        if self.press is None:
            self.pdf.save(out, min_version="1.7", **modes)
        else:
            add_intent(self.pdf, self.press)
            add_version(self.pdf, title, made)
            self.pdf.save(out, force_version="1.6", deterministic_id=True, **modes)
        return out.getvalue()

    def _group(self) -> Any:
        return Dictionary(Type=Name.Group, S=Name.Transparency, CS=self.space, I=True, K=False)

    def _overprints(self, ink: int | None) -> bool:
        return ink is not None and self.picture.inks[ink].overprints

    def _name(self, kind: str, category: str, value: Any) -> str:
        self.count += 1
        name = f"{kind}{self.count}"
        self.resources[f"/{category}"][f"/{name}"] = value
        return name

    def _state(self, opacity: float, blend: str, overprint: bool = False) -> str:
        """The operator that sets opacity, blend mode and overprint; nothing when all are at rest."""
        if opacity >= 1 and blend == "normal" and not overprint:
            return ""
        key = (round(min(max(opacity, 0.0), 1.0), 5), blend, overprint)
        if key not in self.states:
            mode = _MODES.get(blend, blend.capitalize())
            value = Dictionary(ca=key[0], CA=key[0], BM=Name(f"/{mode}"))
            if overprint:
                value.OP, value.op, value.OPM = True, True, 1
            self.states[key] = self._name("G", "ExtGState", value)
        return f"/{self.states[key]} gs "

    def _items(self, items: tuple[Item, ...], at_root: bool = False) -> str:
        baked = max((i for i, item in enumerate(items) if needs_backdrop(item)), default=-1)
        content = ""
        if baked >= 0:
            content = self._bake_prefix(items[: baked + 1], at_root)
        return content + "".join(self._item(i) for i in items[baked + 1 :])

    def _item(self, item: Item) -> str:
        if isinstance(item, FillPath):
            return self._fill(item)
        if isinstance(item, StrokePath):
            return self._stroke(item)
        if isinstance(item, Layer):
            return self._layer(item)
        return self._soft(item) if isinstance(item, Soft) else ""

    def _fill(self, item: FillPath) -> str:
        if not item.path:
            return ""
        rule = "*" if item.path.evenodd else ""
        paint = effective_paint(item.paint)
        if is_field(paint) and not is_patched(paint):
            return self._field(item)
        outline = path_operators(item.path, digits_for(item.transform, 5))
        alpha, ink = paint.colour.a if isinstance(paint, Solid) else 1, ink_of(item.paint, self.picture.inks)
        head = f"q {self._state(item.opacity * alpha, item.blend, self._overprints(ink))}{concat(item.transform)}"
        if isinstance(paint, Solid):
            colour = fill_colour(paint.colour.rgb)
            if ink is not None:
                colour = f"/{self.spots[ink][0]} cs {num(paint.tint)} scn"
            text = self.fonts.operators(item.words) if self.fonts is not None and isinstance(item, FillText) else None
            return f"{head}{colour}\n{text or f'{outline}f{rule}'}\nQ\n"
        clip = f"{outline}W{rule} n\n"
        if isinstance(paint, Meshed | Conic):
            return self._filled(item, self._patches(paint, clip, item.path.bounds()))
        assert isinstance(paint, Linear | Radial)
        if not paint.stops:
            return ""
        return self._filled(item, self._shaded(paint, clip, item.path.bounds(), ink), ink)

    def _filled(self, item: FillPath, content: str, ink: int | None = None) -> str:
        """A fill by what is drawn in its own coordinates."""
        return self._grouped(concat(item.transform) + content, item_box(item), item.opacity, item.blend, ink)

    def _grouped(self, content: str, box: Box | None, opacity: float, blend: str, ink: int | None = None) -> str:
        """Operators with an opacity and a blend mode. These are set for a group that holds clips and masks: set
        together with a mask they are applied twice by one widespread reader, and another hardens clips round a
        group."""
        state = self._state(opacity, blend, self._overprints(ink))
        if not state:
            return f"q {content}Q\n"
        form = self._form(content, Array([*_grown(box)]) if box is not None else _everywhere(), self._group())
        return f"q {state}/{self._name('X', 'XObject', form)} Do\nQ\n"

    def _field(self, item: FillPath) -> str:
        """A paint that PDF has not: its pixels, clipped by the outline."""
        sheet = (self.picture.width, self.picture.height)
        made = field_image(item, min(self.dpi, FIELD_DPI) / 96, sheet, -self.margin)
        if made is None:
            return ""
        rgba, box = made
        clip = self._clip(Clip(item.path, item.transform))
        return self._grouped(clip + self._pixels(rgba, box), box, item.opacity, item.blend)

    def _pixels(self, rgba: NDArray[np.uint8], box: Box) -> str:
        """Straight RGBA over a box: a hair smaller, as readers spread a picture over each pixel of theirs that it
        touches, and one in their own pixels would be resampled for the sake of a rounding error."""
        hair = _HAIR * (box[2] - box[0]) / rgba.shape[1]
        l, t, r, b = grow_box(box, -hair)
        image = self._name("I", "XObject", image_with_mask(self.pdf, _filled(rgba), self.space))
        return f"{concat((r - l, 0, 0, t - b, l, b))}/{image} Do\n"

    def _patches(self, paint: Meshed | Conic, clip: str, box: Box | None) -> str:
        """Operators that fill the clip with a mesh or a conic gradient, in the coordinates of its shape."""
        if isinstance(paint, Conic):
            if not paint.stops or box is None:
                return ""
            shown, grey = conic_shadings(self.pdf, paint, box, self.space)
        else:
            try:
                mesh = mesh_of(paint)
            except MeshError:
                return ""
            shown, grey = mesh_shadings(self.pdf, mesh, self.space)
        content = f"{clip}/{self._name('H', 'Shading', shown)} sh\n"
        if grey is None:
            return content
        return self._masked(content, f"/{self._name('H', 'Shading', grey)} sh\n", box)

    def _shaded(self, paint: Linear | Radial, clip: str, box: Box | None, ink: int | None = None) -> str:
        """Operators that fill the clip with a gradient, in the coordinates of its shape."""
        place = concat(paint.transform) if isinstance(paint, Radial) else ""

        def painted(alpha: bool) -> str:
            spot = (self.picture.inks[ink], self.spots[ink][1]) if ink is not None and not alpha else None
            made = shadings(self.pdf, paint, box, self.space, alpha, spot)
            return place + "".join(f"/{self._name('H', 'Shading', s)} sh\n" for s in made)

        if all(s.colour.a >= 1 for s in paint.stops):
            return clip + painted(False)
        return self._masked(clip + painted(False), painted(True), box)

    def _masked(self, content: str, grey: str, box: Box | None) -> str:
        """Operators under a mask drawn in grey, round a ``box`` in their own coordinates: a mask much larger than the
        page is dropped by one widespread reader, with all that it holds, when the page is drawn large."""
        there = _everywhere()
        if box is not None:  # with room for soft edges, however small the units are
            there = Array([*grow_box(box, max(box[2] - box[0], box[3] - box[1]) / 2 + 1)])
        mask = self._form(grey, there, Dictionary(S=Name.Transparency, CS=Name.DeviceGray, I=True))
        state = Dictionary(SMask=Dictionary(S=Name.Luminosity, G=mask))
        # A form with a group of its own: the only writing of a masked shading that all renderers agree on.
        form = self._form(content, there, self._group())
        masked = self._name("G", "ExtGState", state)
        return f"/{masked} gs /{self._name('X', 'XObject', form)} Do\n"

    def _form(self, content: str, box: Any, group: Any) -> Any:
        stream = pikepdf.Stream(self.pdf, content.encode("ascii"))
        stream.stream_dict = Dictionary(
            Type=Name.XObject, Subtype=Name.Form, BBox=box, Resources=self.resources, Group=group
        )
        return self.pdf.make_indirect(stream)

    def _stroke(self, item: StrokePath) -> str:
        if not item.path:
            return ""
        paint = effective_paint(item.paint)
        if not isinstance(paint, Solid):
            outline = outline_of_line(item.path, item.width, item.cap, item.join, item.miter)
            return self._fill(FillPath(outline, item.transform, paint, item.opacity, item.blend))
        c = paint.colour
        digits = digits_for(item.transform, 5)
        pen = f"{num(item.width, digits)} w {_CAPS[item.cap]} J {_JOINS[item.join]} j {num(max(item.miter, 1))} M"
        ink = ink_of(item.paint, self.picture.inks)
        state = self._state(item.opacity * c.a, item.blend, self._overprints(ink))
        colour = f"/S CS {nums(*c.rgb)} SC" if ink is None else f"/{self.spots[ink][0]} CS {num(paint.tint)} SCN"
        return f"q {state}{concat(item.transform)}{colour} {pen}\n{path_operators(item.path, digits)}S\nQ\n"

    def _clip(self, clip: Clip | None) -> str:
        if clip is None:
            return ""
        outline = clip.path.transformed(clip.transform)
        return f"{path_operators(outline)}W{'*' if outline.evenodd else ''} n\n"

    def _layer(self, item: Layer) -> str:
        if item.softened:
            return self._bake_blur(item)
        box = item_box(item)
        if box is None:
            return ""
        if shade_colour(item) is not None:
            return self._shade(item, box)
        content = self._clip(item.clip) + self._items(item.items)
        if item.at_rest:
            return f"q {content}Q\n"
        form = self._form(content, Array([*_grown(box)]), self._group())
        name = self._name("X", "XObject", form)
        return f"q {self._state(item.opacity, item.blend)}/{name} Do\nQ\n"

    def _soft(self, item: Soft) -> str:
        if item.sigma <= 0 and not item.ramp and all(isinstance(i, FillPath) for i in item.items):
            return self._hard_shadow(item)
        plain = Soft(item.items, item.colour, item.sigma, item.offset, 1.0, ramp=item.ramp)
        within = item_box(item) if item.clip is not None else None
        content = self._clip(item.clip) + self._bake((plain,), item.sigma, within=within)
        return self._grouped(content, item_box(item), item.opacity, item.blend)

    def _shade(self, item: Layer, box: Box) -> str:
        """Soft silhouettes united: one image, as fine as the sharpest of them asks."""
        finest = min(i.sigma for i in item.items if isinstance(i, Soft))
        plain = Layer(item.items, isolated=True, one_light=item.one_light)
        content = self._clip(item.clip) + self._bake((plain,), finest, within=box)
        return self._grouped(content, box, item.opacity, item.blend)

    def _hard_shadow(self, item: Soft) -> str:
        moved = tuple(
            FillPath(i.path, multiply((1, 0, 0, 1, *item.offset), i.transform), Solid(item.colour))
            for i in item.items if isinstance(i, FillPath)
        )  # fmt: skip
        return self._layer(Layer(moved, item.opacity, item.blend, item.clip))

    def _bake_blur(self, item: Layer) -> str:
        plain = Layer(item.items, blur=item.blur, blur_angle=item.blur_angle, feather=item.feather)
        # Only an even blur leaves nothing that needs the full resolution.
        fineness = item.blur if item.feather <= 0 and item.blur_angle is None else 0.0
        content = self._clip(item.clip) + self._bake((plain,), fineness)
        return self._grouped(content, item_box(item), item.opacity, item.blend)

    def _bake_prefix(self, items: tuple[Item, ...], at_root: bool) -> str:
        return self._bake(items, 0.0, with_ground=at_root)

    def _bake(
        self, items: tuple[Item, ...], sigma: float, with_ground: bool = False, within: Box | None = None
    ) -> str:  # fmt: skip
        """An image of the items, of what lies ``within`` a box at least. Something blurred by ``sigma`` needs no more
        than a few pixels per sigma."""
        p = self.picture
        box = items_box(items)
        if box is not None and within is not None:
            l, t, r, b = grow_box(within, 8.0)
            box = (max(box[0], l), max(box[1], t), min(box[2], r), min(box[3], b))
        if with_ground and p.ground is not None:
            box = (0.0, 0.0, p.width, p.height)
        if box is None:
            return ""
        # What lies far off the sheet cannot be seen; a margin keeps the edge of the image off the sheet.
        box = (max(box[0], -8), max(box[1], -8), min(box[2], p.width + 8), min(box[3], p.height + 8))
        if box[0] >= box[2] or box[1] >= box[3]:
            return ""
        # Pixels lie on those of the page drawn at this resolution; coarser ones cover some of these whole.
        most = (MAX_PIXELS / 4 / max((box[2] - box[0]) * (box[3] - box[1]), 1e-9)) ** 0.5
        full = self.dpi / 96
        enough = max(12 / sigma, 2.0) if sigma > 0 else full
        scale = full / max(math.floor(full / enough), math.ceil(full / most), 1)
        box = whole_pixels(box, scale, -self.margin)
        ground = p.ground if with_ground else None
        part = Picture(p.width, p.height, ground, (Chunk(0, items, box),))
        pixels = straight_bytes(np.clip(render_float(part, scale, box), 0, 1))
        return f"q {self._pixels(pixels, box)}Q\n"


def _everywhere() -> Any:
    return Array([-1e5, -1e5, 1e5, 1e5])


def _grown(box: Box) -> Box:
    return (box[0] - 1, box[1] - 1, box[2] + 1, box[3] + 1)


def _filled(pixels: Any) -> Any:
    """Give clear pixels the mean colour of the visible ones, so that interpolation at edges pulls in no black."""
    clear = pixels[..., 3] == 0
    if clear.any() and not clear.all():
        weight = pixels[..., 3].astype(np.float64)
        mean = (pixels[..., :3] * weight[..., None]).sum(axis=(0, 1)) / weight.sum()
        pixels[clear, :3] = np.round(mean).astype(np.uint8)
    return pixels
