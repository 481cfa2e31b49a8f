"""What a stock is, as data: a small JSON file with the size of the slot in mm and what one of the generators needs.

Those that ship stand in ``files``; people can write their own.
"""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import msgspec

from volumen.caching import by_value

_FILES = Path(__file__).parent / "files"
_MOST_BYTES = 1 << 20
_PRESENT = 1  # version of the format
_LONGEST = 100_000.0  # mm
_MOST_DESKS = 4
_BEYOND = 1.0  # that a point may lie beside a photograph, of its size
_FAR = 6.0  # that a body may stand from the middle of the table

InkMode = Literal["print", "dye", "underbase"]
Pair = tuple[float, float]
Fold = tuple[float, float, float, float, float, float, float, float, float]  # see ``Cloth``


class StockProblem(ValueError):
    """A stock that cannot be used; the message says why."""


class Cloth(msgspec.Struct, frozen=True, tag="cloth", forbid_unknown_fields=True):
    """A hanging bag. ``folds``: from x, y, to x, y, width at both ends, height, bow, skew; a bag is 476 units wide.
    ``thread``: from thread to thread."""

    folds: tuple[Fold, ...] = ()
    thread: float = 3.1


class Plate(msgspec.Struct, frozen=True, tag="plate", forbid_unknown_fields=True):
    """A domed plate screwed to a wall. ``rim``: its dark edge. ``rough`` 0 mirrors, 1 is chalk."""

    face: str = "#12406b"
    rim: str = "#0b2238"
    wall: str = "#6f8f93"
    rough: float = 0.16
    dome: float = 3.2
    screws: bool = True


class Poster(msgspec.Struct, frozen=True, tag="poster", forbid_unknown_fields=True):
    """A sheet pinned to a brick wall, as high as its artwork asks for. ``creases``: where it was folded across and
    down, 0..1. ``curl``: how far its foot stands off the wall."""

    across: tuple[float, ...] = (0.335, 0.667)
    down: tuple[float, ...] = (0.5,)
    curl: float = 30.0
    paper: str = "#f4efe4"


class Turned(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One body of revolution: its ``profile`` (radius, height) from the middle of its foot to that of its top, where it
    stands, and the band that is printed: its middle height and its share of the turn (degrees), turned by some.

    ``glass``: it can be looked through above ``filled``. ``rough`` and ``metal`` belong to what is not printed.
    """

    profile: tuple[Pair, ...]
    x: float = 0.0
    z: float = 0.0
    arc: float = 286.0
    turn: float = 0.0
    middle: float = 1.0
    high: float = 0.9  # the most of the band
    colour: str = "#8f9598"
    metal: bool = True
    glass: bool = False
    filled: float = 0.0
    content: str = "#3b2a1f"
    cork: float = 99.0
    label: str = ""  # the colour of the paper round the artwork; none for a sticker


class Table(msgspec.Struct, frozen=True, tag="table", forbid_unknown_fields=True):
    """Bodies of revolution on a table."""

    bodies: tuple[Turned, ...]
    wood: str = "#b58b5c"
    wall: str = "#c9d2cf"


class Folded(msgspec.Struct, frozen=True, tag="folded", forbid_unknown_fields=True):
    """A card that stands folded. ``angles``: of its back and front panel to the eye, degrees; ``bow``: how far they
    bend."""

    angles: Pair = (58.0, 6.0)
    bow: Pair = (0.03, 0.05)
    paper: str = "#f6f1e6"
    wood: str = "#8b6a4a"
    wall: str = "#d8cfbf"


class Screens(msgspec.Struct, frozen=True, tag="screens", forbid_unknown_fields=True):
    """Artwork as an icon on a light and on a dark desk, in whole pixels. ``desks``: bezel, top and bottom of the
    screen, tiles, wood."""

    desks: tuple[tuple[str, str, str, str, str], ...] = (
        ("#d9dde0", "#eef3f5", "#cfdfe6", "#ffffff", "#c9a67a"),
        ("#17191c", "#10202c", "#1d3b49", "#2b4856", "#3a2e28"),
    )


class Photograph(msgspec.Struct, frozen=True, tag="photograph", forbid_unknown_fields=True):
    """An artist's own photograph. ``points``: where on it (0..1 across and down) the corners of the artwork lie, from
    its top left one clockwise, then the middles of its top, bottom, left and right side, its own middle, and the other
    points of a mesh of 5 x 5, row by row, as far as there are any: they bend it. ``white``: the colour that the thing
    has there in even light."""

    picture: str = ""
    points: tuple[Pair, ...] = ((0.2, 0.2), (0.8, 0.2), (0.8, 0.8), (0.2, 0.8))
    white: str = "#ffffff"


Thing = Cloth | Plate | Poster | Table | Folded | Screens | Photograph


class Stock(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """``width`` and ``height`` of the slot in mm. ``colours`` by name, those that it is offered in. ``ground``: the
    ground of the sheet is printed too."""

    name: str
    thing: Thing
    width: float = 200.0
    height: float = 200.0
    colours: dict[str, str] = {}
    ground: bool = False
    version: int = _PRESENT

    def __hash__(self) -> int:
        return hash((self.name, self.thing, self.width, self.height, tuple(self.colours.items()), self.ground))


class StockView(msgspec.Struct, frozen=True, tag="stock"):
    """Artwork as it is seen on stock, in one of its colours, fitted to it or in its ``own_size``; ``read``: how every
    object reads is measured too."""

    stock: Stock
    colour: str = ""
    ink: InkMode = "underbase"
    own_size: bool = False
    read: bool = False


def read_stock(path: Path) -> Stock:
    """A stock from its file. Raises StockProblem with the reason."""
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise StockProblem(f"'{path.name}' is larger than 1 MB: no stock is")
        stock = msgspec.json.decode(path.read_bytes(), type=Stock)
    except OSError as error:
        raise StockProblem(f"'{path.name}' cannot be read: {error.strerror}") from error
    except RecursionError as error:
        raise StockProblem(f"'{path.name}' is nested too deep for a stock") from error
    except (msgspec.DecodeError, ValueError) as error:
        raise StockProblem(f"'{path.name}' is no stock: {error}") from error
    if stock.version > _PRESENT:
        raise StockProblem(f"'{path.name}' was written by a newer version of Volumen")
    if isinstance(stock.thing, Photograph):
        picture = str(_beside(path, stock.thing.picture))
        stock = msgspec.structs.replace(stock, thing=msgspec.structs.replace(stock.thing, picture=picture))
    return checked(stock)


def _beside(path: Path, picture: str) -> Path:
    """A photograph in the folder of the stock's file, or in one within: a file from elsewhere reads nothing else."""
    folder = path.parent.resolve()
    if "\0" in picture:
        raise StockProblem(f"'{path.name}' names its photograph with a character that no file name has")
    found = (folder / picture).resolve()
    if not found.is_relative_to(folder):
        raise StockProblem(f"'{picture}' lies outside the folder of '{path.name}': put the photograph beside it")
    return found


def checked(stock: Stock) -> Stock:
    """The stock, if it can be drawn. Raises StockProblem with the reason."""
    from volumen.colour.srgb import from_hex

    if not (0.1 <= stock.width <= _LONGEST and 0.1 <= stock.height <= _LONGEST):
        raise StockProblem(f"a slot of {stock.width:g} x {stock.height:g} mm: 0.1 to {_LONGEST:,.0f} mm are possible")
    thing = stock.thing
    try:
        for colour in [*stock.colours.values(), *_colours(thing)]:
            from_hex(colour)
    except ValueError as error:
        raise StockProblem(str(error)) from error
    numbers = list(_numbers(thing))
    if any(not abs(v) <= 10_000 for v in numbers) or len(numbers) > 5_000:
        raise StockProblem("it holds numbers beyond 10,000, or more than 5,000 of them")
    if isinstance(thing, Cloth) and not 1.5 <= thing.thread <= 50:
        raise StockProblem("threads lie 1.5 to 50 apart")
    if isinstance(thing, Photograph):
        _check_points(thing)
    if isinstance(thing, Screens) and not 1 <= len(thing.desks) <= _MOST_DESKS:
        raise StockProblem(f"1 to {_MOST_DESKS} desks are shown")
    if isinstance(thing, Table):
        _check_bodies(thing)
    return stock


def _check_points(thing: Photograph) -> None:
    if not 4 <= len(thing.points) <= 25:
        raise StockProblem("4 to 25 points say where the artwork lies on a photograph")
    if any(not -_BEYOND <= v <= 1 + _BEYOND for point in thing.points for v in point):
        raise StockProblem("points lie on the photograph, 0 to 1 across and down, or its size beside it at most")


def _check_bodies(table: Table) -> None:
    if not 1 <= len(table.bodies) <= 6:
        raise StockProblem("1 to 6 bodies stand on a table")
    for body in table.bodies:
        if abs(body.x) > _FAR or abs(body.z) > _FAR:
            raise StockProblem(f"a body stands at most {_FAR:g} from the middle of the table")
        radii, heights = [r for r, _ in body.profile], [h for _, h in body.profile]
        if len(body.profile) < 3 or not 0.05 <= max(radii) <= 1.5 or not 0.1 <= max(heights) <= 2.5:
            raise StockProblem("a profile has three points or more, a radius of 0.05 to 1.5 and a height of 0.1 to 2.5")
        if min(radii) < 0 or min(heights) < 0 or not 5 <= body.arc <= 360 or body.high <= 0:
            raise StockProblem("radii, heights and the printed band are above 0; it takes 5 to 360 degrees")


def _colours(thing: msgspec.Struct) -> list[str]:
    plain = msgspec.to_builtins(thing)
    plain.pop("picture", None)
    plain.pop("type", None)
    return [v for v in _leaves(plain) if isinstance(v, str) and v]


def _numbers(thing: msgspec.Struct) -> list[float]:
    return [v for v in _leaves(msgspec.to_builtins(thing)) if isinstance(v, int | float)]


def _leaves(value: object) -> list[object]:
    if isinstance(value, dict):
        return [leaf for v in value.values() for leaf in _leaves(v)]
    if isinstance(value, list | tuple):
        return [leaf for v in value for leaf in _leaves(v)]
    return [value]


def stock_bytes(stock: Stock) -> bytes:
    """A stock as a file that people can edit."""
    return msgspec.json.format(msgspec.json.encode(stock), indent=2)


@by_value("shipped stocks", 1, lasting=True)
def shipped_stocks() -> tuple[Stock, ...]:
    """Those that come with Volumen, by name."""
    return tuple(sorted((read_stock(p) for p in _FILES.glob("*.json")), key=lambda s: s.name))
