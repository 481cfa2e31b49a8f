"""The rope border: a garland of rope and leaves, live along its paths, with a bow, round a notice of the museum."""

from __future__ import annotations

from volumen.library import (
    Body,
    CastShadow,
    Course,
    Document,
    Fill,
    Group,
    InnerShadow,
    Lamp,
    Mirror,
    Node,
    PathForm,
    Pile,
    RectangleForm,
    Shape,
    Sheet,
    Sliver,
    Steps,
    TextForm,
    circle,
    colour,
    cusp,
    linear,
    path_form,
    radial,
    smooth,
    solid,
)

WIDE, HIGH, X = 760.0, 960.0, 380.0
PAPER, INK, ROPE = "#f6efdd", "#17323a", "#c9a468"


def rope() -> Document:
    p = Pile()
    parts: tuple[Node, ...] = (
        p.shape("wall", RectangleForm(0, 0, WIDE, HIGH), Fill(radial((X, 420), 640, (0, "#2f6a72"), (1, "#173f49"))), locked=True),
        p.shape("notice", RectangleForm(120, 150, 520, 640, 26), solid(PAPER), CastShadow(0.5), InnerShadow(3.0, opacity=0.18), lift=7.0),
        _leaves(p),
        _border(p),
        _swag(p),
        p.group("bow in two halves", *_bow(p), recipe=(Mirror((X, 0.0)),)),
        p.shape("knot", circle(X, 152, 20, 17), solid(ROPE), Body("ball", "clay"), CastShadow(0.5), lift=7.0),
        *_words(p),
    )  # fmt: skip
    return p.document(Sheet(WIDE, HIGH, colour("#173f49")), Lamp(318, 46, 1.0, 0.3), *parts)


def _strand(p: Pile) -> Shape:
    """One strand of a rope laid to the right: a slanted drop whose ends lie under its neighbours."""
    form = path_form(smooth(0, 12, 2, -6), smooth(14, 0, 8, 0), smooth(34, 8, 5, 6), smooth(36, 14, -2, 5), smooth(22, 24, -9, 0),
                     smooth(3, 18, -3, -3))  # fmt: skip
    return p.shape(
        "strand",
        form,
        solid(ROPE),
        Body("ball", "clay", bounce=0.6),
        Sliver("shade", "shift", 1.8, opacity=0.5),
        lift=0.6,
    )


def _along(p: Pile, name: str, path: PathForm, *motif: Node, i: Course, **more: object) -> Group:
    guide = p.shape("path", path, member=True)
    return p.group(name, guide, *motif, recipe=(i,), **more)


def _frame(inset: float, r: float) -> PathForm:
    """A frame that runs to the right along its top, from the middle, with round corners."""
    l, t, right, b = 120 + inset, 150 + inset, 640 - inset, 790 - inset
    k = r * 0.448
    return path_form(
        smooth(X, t, 60, 0), cusp(right - r, t, (-60, 0), (r - k, 0)), cusp(right, t + r, (0, k - r), (0, 60)),
        cusp(right, b - r, (0, -60), (0, r - k)), cusp(right - r, b, (r - k, 0), (-60, 0)), cusp(l + r, b, (60, 0), (k - r, 0)),
        cusp(l, b - r, (0, r - k), (0, -60)), cusp(l, t + r, (0, 60), (0, k - r)), cusp(l + r, t, (k - r, 0), (60, 0)),
    )  # fmt: skip


def _border(p: Pile) -> Group:
    return _along(p, "rope round the notice", _frame(0, 34), _strand(p), i=Course(gap=-15.0, bends=False), lift=4.0)


def _leaf(p: Pile, name: str, tip: float, size: float, tone: str, up: float) -> Shape:
    """A leaf that grows from the stem to the right, above (1) or below (-1) it."""

    def at(x: float, y: float) -> tuple[float, float]:
        return tip - 44 * size + x * size, 40 + up * y * size

    a, b = at(0, -3), at(44, -24)
    form = path_form(
        cusp(*a, (12 * size, 4 * up * size), (8 * size, up * -16 * size)),
        cusp(*b, (-18 * size, up * -6 * size), (-2 * size, up * 12 * size)),
    )
    return p.shape(
        name, form, solid(tone), Body("fold", "wax", turn=up * -28.0, strength=0.7), CastShadow(0.35), lift=1.2
    )


def _pairs(p: Pile, up: float, tone: str, small: str) -> Group:
    """A large leaf and a small one, and those between them."""
    return p.group("leaves", _leaf(p, "large leaf", 70, 1.0, tone, up), _leaf(p, "small leaf", 196, 0.42, small, up),
                   recipe=(Steps(count=2),))  # fmt: skip


def _sprig(p: Pile) -> tuple[Node, ...]:
    """The motif: a stem that thins out, leaves in pairs that shrink towards its tip, and berries."""
    stem = p.shape(
        "stem",
        path_form(smooth(4, 36.8, 60, 0), smooth(206, 40, 2, 0.6), smooth(4, 43.2, -60, 0)),
        solid("#6d5a2c"),
        Body("tube", "wood"),
    )
    berries = tuple(
        p.shape("berry", circle(x, y, r), solid("#c8402a"), Body("ball", "enamel"), CastShadow(0.4), lift=2.0)
        for x, y, r in ((100, 27, 5.4), (108, 55, 5.0), (212, 40, 4.4))
    )
    return stem, _pairs(p, 1.0, "#3f8a63", "#7cb07a"), _pairs(p, -1.0, "#2f7a68", "#6aa68a"), *berries


def _leaves(p: Pile) -> Group:
    """Sprigs that hang down on both sides behind the rope, each from a half that is mirrored."""
    path = path_form(
        smooth(X - 40, 118, -90, -4),
        smooth(150, 150, -60, 40),
        smooth(70, 330, -18, 110),
        smooth(96, 600, 20, 90),
        closed=False,
    )
    side = _along(p, "sprigs", path, *_sprig(p), i=Course(gap=-18.0, first=0.9, last=0.62))
    return p.group("sprigs on both sides", side, recipe=(Mirror((X, 0.0)),), lift=2.0)


def _swag(p: Pile) -> Group:
    path = path_form(smooth(150, 800, 40, 60), smooth(X, 882, 110, 0), smooth(610, 800, 40, -60), closed=False)
    return p.group(
        "swag", _along(p, "sprigs below", path, *_sprig(p), i=Course(gap=-16.0, first=0.8, last=0.8)), lift=2.0
    )


def _bow(p: Pile) -> tuple[Node, ...]:
    """The right loop and the right end of the bow; the left ones are mirrored."""
    loop = path_form(
        smooth(X, 152, 70, -50),
        smooth(X + 132, 96, 40, 6),
        smooth(X + 128, 162, -40, 22),
        smooth(X + 2, 156, -20, -2),
        closed=False,
    )
    end = path_form(smooth(X, 156, 26, 30), smooth(X + 84, 204, 30, 18), smooth(X + 128, 268, 8, 30), closed=False)
    tassel = p.shape("tassel", path_form(smooth(150, 12, 8, -8), smooth(186, -2, 20, -2), smooth(206, 12, -2, 8), smooth(186, 26, -20, 2)),
                     solid("#b23a2e"), Body("ball", "clay"))  # fmt: skip
    first = _strand(p)
    hanging = Course(gap=-15.0, bends=False, first=0.9, last=0.9, caps=(first.id, tassel.id))
    looped = Course(gap=-15.0, bends=False, first=0.95, last=0.95)
    return (
        _along(p, "end of the bow", end, _strand(p), first, tassel, i=hanging, lift=5.0),
        _along(p, "loop of the bow", loop, _strand(p), i=looped, lift=6.0),
    )


def _words(p: Pile) -> tuple[Node, ...]:
    def line(
        name: str, text: str, size: float, y: float, tone: str, family: str = "Bebas Neue", wide: float = 0.06
    ) -> Shape:
        style = "Regular" if family == "Bebas Neue" else "SemiBold"
        return p.shape(name, TextForm(text, family, style, size, X, y, wide, align="centre"), solid(tone))

    rule = p.shape("rule", path_form(smooth(250, 538, 60, 0), smooth(X, 534, 30, 0), smooth(510, 538, 60, 0), smooth(X, 542, -30, 0)),
                   Fill(linear((250, 0), (510, 0), (0, "#c8402a", 0.0), (0.5, "#c8402a"), (1, "#c8402a", 0.0))))  # fmt: skip
    return (
        line("museum", "THE HARBOUR MUSEUM", 40, 366, INK),
        line("of", "of Kelder Sound", 30, 408, "#2f6a72", "Vollkorn", 0.0),
        line("title", "ROPEWALK", 124, 510, "#b23a2e", wide=0.05),
        rule,
        line("what", "Ropes laid by hand in the long shed,", 27, 588, INK, "Vollkorn", 0.0),
        line("what else", "every Saturday at the turn of the tide.", 27, 624, INK, "Vollkorn", 0.0),
        line("bring", "BRING OLD GLOVES", 46, 692, "#2f6a72", wide=0.12),
        line("shed", "SHED 9  ·  NORTH QUAY", 30, 742, INK, wide=0.14),
    )
