"""The document and its nodes: one definition gives types, equality, validation and the file format."""

from __future__ import annotations

from typing import Literal, get_args

import msgspec

from volumen.colour.press_settings import Press
from volumen.geometry.affine import IDENTITY, Affine, Point
from volumen.geometry.text import Align
from volumen.geometry.widths import Profile
from volumen.model.box_forms import BoxForm as BoxForm
from volumen.model.box_forms import CloudForm as CloudForm
from volumen.model.box_forms import DropForm as DropForm
from volumen.model.box_forms import EllipseForm as EllipseForm
from volumen.model.box_forms import PolygonForm as PolygonForm
from volumen.model.box_forms import RectangleForm as RectangleForm
from volumen.model.box_forms import StarForm as StarForm
from volumen.model.first_light import FirstLight
from volumen.model.ingredients import BlendMode, Recipe
from volumen.model.inks import Ink
from volumen.model.later import Later
from volumen.model.meant import MeantSo
from volumen.model.outputs import Output
from volumen.model.points import PathPoint as PathPoint
from volumen.model.points import PathRun as PathRun
from volumen.model.sheet import Sheet as Sheet
from volumen.shading.lamp import Ambient, Lamp, Lights
from volumen.shading.materials import Material
from volumen.shading.paint import Colour, Stop


class SegmentForm(msgspec.Struct, frozen=True, tag="segment"):
    """A straight line between two points."""

    start: Point
    end: Point


class ArcForm(msgspec.Struct, frozen=True, tag="arc"):
    """A circular arc through three points."""

    start: Point
    through: Point
    end: Point


class SpiralForm(msgspec.Struct, frozen=True, tag="spiral"):
    """A spiral about a centre, from ``start`` degrees at the ``inner`` radius out to the ``outer`` one."""

    centre: Point
    outer: float
    inner: float = 0.0
    turns: float = 3.0
    start: float = 0.0


class PathForm(msgspec.Struct, frozen=True, tag="path"):
    """A path of runs of points."""

    runs: tuple[PathRun, ...]


class DieForm(PathForm, frozen=True, tag="die line"):
    """The line that a cutter follows round all artwork, ``gap`` mm away and turning no tighter than ``radius`` mm. It
    is drawn anew as the artwork changes, until its points are moved by hand: then it is a path."""

    gap: float = 2.0
    radius: float = 1.5


class TextForm(msgspec.Struct, frozen=True, tag="text"):
    """Text that stays text. Its first baseline starts at x, y, or runs along ``path``.

    ``spacing`` is in ems after each glyph, ``leading`` in ems between baselines; ``start`` 0..1 is where on the
    path the text begins, is centred or ends; ``flip`` sets it on the path's other side, running back.
    """

    text: str
    family: str = "Vollkorn"
    style: str = "SemiBold"
    size: float = 48.0
    x: float = 0.0
    y: float = 0.0
    spacing: float = 0.0
    leading: float = 1.2
    align: Align = "left"
    kerning: bool = True
    ligatures: bool = True
    path: PathForm | None = None
    start: float = 0.0
    flip: bool = False


Combining = Literal["union", "subtract", "intersect", "exclude", "divide", "cut hidden"]
IN_PIECES: tuple[Combining, ...] = ("divide", "cut hidden")
COMBININGS: tuple[Combining, ...] = get_args(Combining)


class CombinedForm(msgspec.Struct, frozen=True, tag="combined"):
    """The area that the shape's members (children with ``member`` set) make together, back to front.

    ``divide`` and ``cut hidden`` keep each member's own look unless the shape has paints of its own. Pieces
    below ``min_area`` square units are dropped.
    """

    operation: Combining = "union"
    min_area: float = 0.5
    fill_holes: bool = False


class RaysForm(msgspec.Struct, frozen=True, tag="rays"):
    """Tapering lines out of a centre, or side by side at an angle.

    They run from ``inner`` to ``reach`` units from the centre; parallel ones spread over ``reach`` to all sides of it.
    ``narrow`` and ``wide`` are their least and greatest width as shares of the room that each has, ``widest`` where
    along them they are widest, ``start`` and ``end`` the most by which single ones are shorter, all shares of their
    length. A number of ``seed`` and ray gives each its ends: more rays leave those as they were.

    ``held`` says how members (children with ``member`` set) bound them: the back-most keeps them inside (``outer``),
    all keep them out, ``gap`` units away (``inner``), or the back-most does the one, the rest the other (``both``).
    """

    kind: Literal["radial", "parallel"] = "radial"
    centre: Point = (0.0, 0.0)
    angle: float = -90.0
    sweep: float = 360.0
    count: int = 24
    inner: float = 0.0
    reach: float = 100.0
    narrow: float = 0.0
    wide: float = 0.5
    widest: float = 1.0
    start: float = 0.0
    end: float = 0.0
    seed: int = 1
    held: Literal["outer", "inner", "both"] = "outer"
    gap: float = 6.0


Boxed = EllipseForm | RectangleForm | PolygonForm | StarForm | DropForm | CloudForm
Form = Boxed | SegmentForm | ArcForm | SpiralForm | PathForm | DieForm | TextForm | CombinedForm | RaysForm
FromMembers = CombinedForm | RaysForm  # whose outline members make, or hold


class Shape(msgspec.Struct, frozen=True, tag="shape"):
    """A form with its recipe. ``children`` are held inside: clipped to the outline; those of a combined form
    that are ``member`` make up the outline instead.

    A ``knockout`` paints nothing: it takes everything beneath it in its group away. What has an ``own_lamp``, or is
    ``unlit``, does not follow the document's lamps, nor does what it holds. With ``keep_vector`` exports write its
    soft light as stepped shapes. Objects with the same ``link`` share their form, recipe and children. What is
    ``isolated`` is composed on its own before it meets what lies beneath. What has no ``substance`` is light or shade
    laid over things: it throws no shadow and catches none. ``stock`` is what the artwork is judged on: knockouts
    leave it alone. With ``lines_only`` lines and edges alone are shown, its own and those of all in it; linked objects
    do not share that.
    """

    id: int
    name: str
    form: Form
    recipe: Recipe = ()
    children: tuple[Node, ...] = ()
    transform: Affine = IDENTITY
    visible: bool = True
    locked: bool = False
    lift: float = 0.0
    opacity: float = 1.0
    blend: BlendMode = "normal"
    member: bool = False
    knockout: bool = False
    own_lamp: Lamp | None = None
    unlit: bool = False
    keep_vector: bool = False
    link: int | None = None
    isolated: bool = False
    substance: bool = True
    stock: bool = False
    lines_only: bool = False


class Group(msgspec.Struct, frozen=True, tag="group"):
    """Nodes taken as one; its recipe holds what acts on them together (shadow, glow, blur).

    One of opacity 1 and normal blend mode that is not blurred lets them blend with what lies beneath it.
    """

    id: int
    name: str
    children: tuple[Node, ...] = ()
    recipe: Recipe = ()
    transform: Affine = IDENTITY
    visible: bool = True
    locked: bool = False
    lift: float = 0.0
    opacity: float = 1.0
    blend: BlendMode = "normal"
    member: bool = False
    knockout: bool = False
    own_lamp: Lamp | None = None
    unlit: bool = False
    keep_vector: bool = False
    link: int | None = None
    isolated: bool = False
    substance: bool = True
    stock: bool = False
    lines_only: bool = False


class Image(msgspec.Struct, frozen=True, tag="image"):
    """A reference picture to work from: ``width`` x ``height`` units from its origin. No export holds it.

    ``asset`` names its data among the document's assets.
    """

    id: int
    name: str
    asset: str
    width: float
    height: float
    children: tuple[Node, ...] = ()
    recipe: Recipe = ()
    transform: Affine = IDENTITY
    visible: bool = True
    locked: bool = False
    lift: float = 0.0
    opacity: float = 1.0
    blend: BlendMode = "normal"
    member: bool = False
    knockout: bool = False
    own_lamp: Lamp | None = None
    unlit: bool = False
    keep_vector: bool = False
    link: int | None = None
    isolated: bool = False
    substance: bool = True
    stock: bool = False
    lines_only: bool = False


Node = Shape | Group | Image


class Asset(msgspec.Struct, frozen=True):
    """Data that came from outside: a PNG or JPEG file under the hash of its content."""

    key: str
    data: bytes


class GuideLine(msgspec.Struct, frozen=True, tag="line"):
    """A guide through a point, at an angle in degrees (0 is level)."""

    at: Point
    angle: float = 0.0


class GuideCircle(msgspec.Struct, frozen=True, tag="circle"):
    """A construction circle."""

    at: Point
    radius: float


Guide = GuideLine | GuideCircle


class WidthProfile(msgspec.Struct, frozen=True):
    """A width profile saved by name."""

    name: str
    profile: Profile


class Swatch(msgspec.Struct, frozen=True):
    """A colour of the palette, maybe that of an ``ink``. What refers to it by ``id`` changes with it."""

    id: int
    name: str
    colour: Colour
    group: str = ""
    ink: Ink | None = None


class SavedGradient(msgspec.Struct, frozen=True):
    """Stops of the palette; gradients linked to them by ``id`` change with them."""

    id: int
    name: str
    stops: tuple[Stop, ...]
    oklab: bool = True


class Look(msgspec.Struct, frozen=True):
    """A recipe saved by name, without form changes; its lengths as on the sheet, its paints laid out for ``box``."""

    id: int
    name: str
    recipe: Recipe
    box: tuple[float, float, float, float] | None = None


class Motif(msgspec.Struct, frozen=True):
    """Artwork saved by name. What is used of it is linked with ``node`` and changes with it."""

    id: int
    name: str
    node: Shape | Group


class Palette(msgspec.Struct, frozen=True):
    """Colours, gradients, looks and motifs that are kept with the document."""

    swatches: tuple[Swatch, ...] = ()
    gradients: tuple[SavedGradient, ...] = ()
    looks: tuple[Look, ...] = ()
    motifs: tuple[Motif, ...] = ()
    next_id: int = 1


class LampSet(msgspec.Struct, frozen=True):
    """All lights saved by name, to switch between."""

    name: str
    lights: Lights


class Document(msgspec.Struct, frozen=True):
    """Everything an artist sets. ``root`` is the pile: the last child lies in front."""

    sheet: Sheet = Sheet()
    lamp: Lamp = Lamp()
    root: Group = Group(0, "pile")
    next_id: int = 1
    guides: tuple[Guide, ...] = ()
    grid: float = 20.0
    profiles: tuple[WidthProfile, ...] = ()
    assets: tuple[Asset, ...] = ()
    palette: Palette = Palette()
    fill: Lamp | None = None
    edge: Lamp | None = None
    ambient: Ambient = Ambient()
    lamp_sets: tuple[LampSet, ...] = ()
    materials: tuple[Material, ...] = ()
    first_light: FirstLight | None = None
    lifts_add_up: bool = False
    meant_so: tuple[MeantSo, ...] = ()
    outputs: tuple[Output, ...] = ()
    press: Press = Press()
    later: tuple[Later, ...] = ()

    @property
    def lights(self) -> Lights:
        """All light that falls on the sheet; ``lamp`` is the key lamp."""
        return Lights(self.lamp, self.fill, self.edge, self.ambient)

    def with_lights(self, lights: Lights) -> Document:
        """The document under other lights."""
        key, fill, edge, ambient = lights.key, lights.fill, lights.edge, lights.ambient
        return msgspec.structs.replace(self, lamp=key, fill=fill, edge=edge, ambient=ambient)
