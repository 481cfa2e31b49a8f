"""Separate pictures that the worker draws: of branches and sheets, as proofs, on stock, as devices make them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from volumen.caching import Cache
from volumen.colour.press import Bytes, ProfileProblem
from volumen.colour.press_views import Spot, difference_of, proof_of
from volumen.compose.scene import build
from volumen.devices.cover import DeviceProblem
from volumen.devices.views import DeviceView
from volumen.model.nodes import Document
from volumen.outline.alone import branches_alone, sheet_of_branches
from volumen.picture.spots import plate_picture, process_picture, spot_inks, used_inks
from volumen.picture.stopping import Stopped
from volumen.render.device_pictures import device_picture, pressed, printed_file
from volumen.render.raster import RenderError, paint_area, straight_bytes, view_of
from volumen.render.stock_pictures import stock_picture
from volumen.render.worker.messages import ImageAnswer, ImageRequest
from volumen.stock.prepared import width_for
from volumen.stock.stocks import StockProblem, StockView

_MOST = 64_000_000  # bytes of pictures of the sheet that are kept for the proofs made of them


class SeparatePictures:
    """Draws them; ``called`` tells that something else is asked for, which comes first."""

    def __init__(self, called: Callable[[], bool]) -> None:
        self.called = called
        self.pictures: Cache[Bytes] = Cache("pictures for proofs", most_bytes=_MOST)
        # Some branches on a sheet of their own, made once for all colours of a stock.
        self.alone: tuple[Document, tuple[int, ...], Document | None] | None = None

    def image(self, request: ImageRequest, document: Document, other: Document) -> ImageAnswer | None:
        """A picture of some branches or of the sheet, of the artwork or of an ``other`` document; None if something
        else was asked for meanwhile."""
        if isinstance(request.view, StockView):
            return self.on_stock(request, request.view, document)
        if isinstance(request.view, DeviceView):
            return self.by_device(request, request.view, document)
        drawn = self.drawn(request, other)
        if drawn is None:
            return None
        size = request.id, drawn.shape[1], drawn.shape[0]
        if request.view is None or not drawn.size:
            return ImageAnswer(*size, drawn.tobytes())
        try:
            spots: list[Spot] = []
            if request.view.kind in ("press", "ink", "plates") and any(s.ink for s in other.palette.swatches):
                parts = self.taken_apart(request, other)
                if parts is None:
                    return None
                drawn, spots = parts
            if request.view.kind == "difference":
                mine = self.drawn(replace(request, changes=b"", references=False), document)
                if mine is None:
                    return None
                proof = difference_of(mine, drawn)
            else:
                proof = proof_of(drawn, request.view, spots)
        except ProfileProblem as problem:
            return ImageAnswer(request.id, 0, 0, b"", problem=str(problem))
        inks = b"" if proof.inks is None else proof.inks.tobytes()
        return ImageAnswer(*size, proof.pixels.tobytes(), proof.figures, inks)

    def on_stock(self, request: ImageRequest, view: StockView, document: Document) -> ImageAnswer | None:
        """The sheet, or some branches alone, on stock; None if something else was asked for meanwhile."""
        if request.nodes:
            if self.alone is None or self.alone[0] is not document or self.alone[1] != request.nodes:
                self.alone = (document, request.nodes, sheet_of_branches(document, request.nodes))
            if self.alone[2] is None:
                return ImageAnswer(request.id, 0, 0, b"", problem="what is selected has no outline")
            document = self.alone[2]
        try:
            made = stock_picture(document, view, width_for(request.width), request.flat, self.called)
        except StockProblem as problem:
            return ImageAnswer(request.id, 0, 0, b"", problem=str(problem))
        except Stopped:
            return None
        h, w = made.pixels.shape[:2]
        return ImageAnswer(request.id, w, h, made.pixels.tobytes(), read=made.read)

    def by_device(self, request: ImageRequest, view: DeviceView, document: Document) -> ImageAnswer | None:
        """The sheet as a device makes it; None if something else was asked for meanwhile."""
        try:
            if view.device == "printed" and view.file:
                pixels, figures = printed_file(view, request.width)
            elif view.device == "printed":
                parts = self.taken_apart(request, document)
                if parts is None:
                    return None
                box = request.box or (0.0, 0.0, document.sheet.width, document.sheet.height)
                pixels = pressed(*parts, view, 96 * parts[0].shape[1] / max(box[2] - box[0], 1e-9))
                figures = {}
            else:
                pixels, figures = device_picture(document, view, request.width, request.flat, self.called)
        except (DeviceProblem, ProfileProblem, RenderError) as problem:
            return ImageAnswer(request.id, 0, 0, b"", problem=str(problem))
        except Stopped:
            return None
        return ImageAnswer(request.id, pixels.shape[1], pixels.shape[0], pixels.tobytes(), figures)

    def taken_apart(self, request: ImageRequest, shown: Document) -> tuple[Bytes, list[Spot]] | None:
        """The process colours of a document and its plates of spot inks; None if something else was asked for."""
        used = used_inks(build(shown, request.flat))
        process = self.drawn(request, shown, 0) if used else self.drawn(request, shown)
        if process is None:
            return None
        spots = []
        for swatch, ink in spot_inks(shown).items():
            plate = self.drawn(request, shown, swatch) if swatch in used else np.full_like(process, 255)
            if plate is None:
                return None
            spots.append(Spot(ink.rgb, 255 - plate[..., 0]))
        return process, spots

    def drawn(self, request: ImageRequest, shown: Document, plate: int | None = None) -> Bytes | None:
        """The pixels of a separate picture of a document, straight, drawn once for all that is made of it; of one
        ``plate``: of a spot ink by its swatch, of the process colours (0). None if something else was asked for."""
        key = (id(shown), request.width, request.height, request.flat, request.box, plate)
        known = self.pictures.get(key) if not request.nodes else None
        if known is not None:
            return known
        box = request.box or (0.0, 0.0, shown.sheet.width, shown.sheet.height)
        document, whole = shown, not request.nodes
        if not whole:
            alone = branches_alone(document, request.nodes)
            if alone is None:
                return np.zeros((0, 0, 4), np.uint8)
            document, box = alone
        references = request.references or not whole
        try:
            picture = build(document, request.flat, ground=whole, references=references, stop=self.called)
        except Stopped:
            return None
        if plate is not None:
            picture = plate_picture(picture, plate) if plate else process_picture(picture)
        scale = min(request.width / (box[2] - box[0]), request.height / (box[3] - box[1]))
        width, height = max(round((box[2] - box[0]) * scale), 1), max(round((box[3] - box[1]) * scale), 1)
        canvas = np.zeros((height, width, 4), np.float32)
        if not paint_area(canvas, picture, view_of(box, scale), (0, 0, width, height), stop=self.called):
            return None
        drawn = straight_bytes(canvas)
        if whole:
            self.pictures.put(key, shown, drawn, drawn.nbytes)
        return drawn
