"""What window and worker say to each other. Every request has an id; the answer carries it back."""

from __future__ import annotations

import msgspec

from volumen.colour.press_views import ProofView
from volumen.devices.views import DeviceView
from volumen.geometry.affine import Affine
from volumen.model.points import PathRun
from volumen.picture.purity import Purity
from volumen.stock.contrast import Reading
from volumen.stock.stocks import StockView

View = ProofView | StockView | DeviceView  # as what a picture is seen
Rect = tuple[int, int, int, int]  # left, top, right, bottom in pixels


class SceneUpdate(msgspec.Struct, tag="scene"):
    """New state of the document, as ``sync.Changes``."""

    changes: bytes


class FrameRequest(msgspec.Struct, tag="frame"):
    """Bring the picture in shared memory ``buffer`` (width x height, 4 bytes a pixel) up to date.

    ``draft`` allows half resolution where much has changed; a later request without it refines. ``values`` shows
    greys of the same lightness.
    """

    id: int
    buffer: str
    width: int
    height: int
    view: Affine
    flat: bool
    draft: bool
    values: bool = False


class ImageRequest(msgspec.Struct, tag="image"):
    """A separate picture: of some branches (``nodes``) in the box around them, or of the sheet (none): of all of it, or
    of the part in ``box`` (user units). ``view`` tells as what it is seen.

    After ``changes`` (``sync.Changes``) that are not made it shows another document, maybe with its ``references``; a
    difference is that to the one that is held.
    """

    id: int
    nodes: tuple[int, ...]
    width: int
    height: int
    flat: bool
    box: tuple[float, float, float, float] | None = None
    view: View | None = None
    changes: bytes = b""
    references: bool = False


class VariantRequest(msgspec.Struct, tag="variant"):
    """A picture of a part of the sheet as it would look after some ``changes`` (``sync.Changes``) that are not made."""

    id: int
    changes: bytes
    box: tuple[float, float, float, float]
    width: int
    height: int


class PurityRequest(msgspec.Struct, tag="purity"):
    """What exports of the document will hold, object by object."""

    id: int


class Quit(msgspec.Struct, tag="quit"):
    """The worker shall end."""


Request = SceneUpdate | FrameRequest | ImageRequest | VariantRequest | PurityRequest | Quit


class FrameAnswer(msgspec.Struct, tag="frame"):
    """The parts of the buffer that changed. ``rough`` says that a refinement is still owed."""

    id: int
    rects: list[Rect]
    rough: bool
    build_ms: float
    draw_ms: float


class ImageAnswer(msgspec.Struct, tag="image"):
    """Straight RGBA bytes, row by row; no pixels when there is nothing to show. ``figures`` and ``inks`` (four bytes a
    pixel) belong to a proof, ``read`` to one on stock; ``problem`` says why there is none."""

    id: int
    width: int
    height: int
    pixels: bytes
    figures: dict[str, float] = {}
    inks: bytes = b""
    problem: str = ""
    read: list[Reading] = []


class PurityAnswer(msgspec.Struct, tag="purity"):
    """Purity by node id, for every node that paints a chunk of its own; and the course that a die line which follows
    the artwork ought to have, where it has not."""

    id: int
    nodes: dict[int, Purity]
    die_line: tuple[PathRun, ...] | None = None


class Lost(msgspec.Struct, tag="lost"):
    """The worker could not take a change: it holds no document any more, and must be told all of it."""

    message: str


class Failure(msgspec.Struct, tag="failure"):
    """A request that raised; the worker goes on."""

    id: int
    message: str


Answer = FrameAnswer | ImageAnswer | PurityAnswer | Lost | Failure

encode = msgspec.msgpack.Encoder().encode
decode_request = msgspec.msgpack.Decoder(Request).decode
decode_answer = msgspec.msgpack.Decoder(Answer).decode
