"""Motifs kept by name: used along several paths, edited in one place for all, saved and opened; and by mouse in the window."""

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from gestures import CTRL, LEFT, press, show
from scenes import disc
from scenes import document as sheet_of
from volumen.app.panels.motif_button import MotifButton
from volumen.compose.scene import build
from volumen.edit import links, motifs, objects
from volumen.formats import native
from volumen.model.make import solid
from volumen.model.nodes import Group, SegmentForm, Shape
from volumen.model.repeats import Course
from volumen.model.sizes import DocumentError
from volumen.model.tree import find, walk
from volumen.model.validate import validate
from volumen.render.raster import render_float

replace = msgspec.structs.replace


def leafy():
    leaf = Group(1, "leaf", (disc(2, 20, 20, 8, solid("#2b8577")), disc(3, 34, 20, 4, solid("#c9a24a"))))
    paths = [Shape(k, f"path {k}", SegmentForm((20, y), (380, y)), ()) for k, y in ((4, 100.0), (5, 200.0))]
    return sheet_of(leaf, *paths, side=400)


def uses(doc):
    (motif,) = doc.palette.motifs
    return motifs.uses_of(doc, motif)


def coloured(doc, node_id, paint):
    """The first part of a use in another colour, and what follows from it."""
    first = find(doc, node_id).children[0].id
    return links.followed(doc, objects.set_fields(doc, [first], recipe=(solid(paint),)))


def test_a_motif_along_two_paths_is_edited_in_any_place(tmp_path):
    doc = motifs.keep_motif(leafy(), 1)
    doc, made = motifs.along(doc, doc.palette.motifs[0], [4, 5])
    assert len(made) == 2 and all(isinstance(find(doc, i).recipe[0], Course) for i in made)
    assert len(uses(doc)) == 3
    rgba = render_float(build(doc))
    for y in (100, 200):
        assert (rgba[y - 10 : y + 10, 40:360, :3].min(axis=2) < 0.7).mean() > 0.1, "it runs along the path"
    for use in uses(doc):
        changed = coloured(doc, use, "#ff0000")
        red = [find(changed, u).children[0].recipe[0].paint.colour.rgb for u in uses(changed)]
        kept = changed.palette.motifs[0].node.children[0].recipe[0].paint.colour.rgb
        assert red == [kept] * 3 == [(1.0, 0.0, 0.0)] * 3
    file = tmp_path / "motifs.volumen"
    native.save(changed, file)
    assert native.load(file) == changed


def test_what_is_deleted_everywhere_is_still_in_the_palette():
    doc = motifs.keep_motif(leafy(), 1)
    doc = objects.delete(doc, [1])
    assert uses(doc) == []
    doc, made = motifs.placed(doc, doc.palette.motifs[0], (300.0, 310.0))
    l, t, r, b = objects.selection_box(doc, [made])
    assert ((l + r) / 2, (t + b) / 2) == pytest.approx((300, 310)) and uses(doc) == [made]
    assert len({n.id for n in walk(doc.root)}) == len(list(walk(doc.root)))
    validate(doc)
    bare = motifs.remove_motif(doc, doc.palette.motifs[0].id)
    assert bare.palette.motifs == () and find(bare, made) is not None


def test_a_motif_nested_too_deep_is_refused():
    deep: Shape | Group = disc(9, 1, 1, 1)
    for k in range(200):
        deep = Group(10 + k, "deep", (deep,))
    doc = motifs.keep_motif(leafy(), 1)
    palette = replace(doc.palette, motifs=(replace(doc.palette.motifs[0], node=deep),))
    with pytest.raises(DocumentError, match="deeper"):
        validate(replace(doc, palette=palette))


def test_motifs_in_the_window(window):
    show(window, leafy(), 1)
    s = window.session
    before = s.document
    window.registry.run("object.keep_motif")
    (button,) = window.swatches.findChildren(MotifButton)
    s.select([4])
    QTest.mouseClick(button, LEFT)
    assert isinstance(s.first.recipe[0], Course) and len(uses(s.document)) == 2
    s.select(())
    (button,) = window.swatches.findChildren(MotifButton)
    QTest.mouseClick(button, LEFT)
    assert objects.selection_box(s.document, s.selection) == pytest.approx((186, 192, 214, 208), abs=4)
    s.select([5])
    window.registry.run("object.keep_motif")
    assert len(s.document.palette.motifs) == 2, "a path can be one as well"
    button = window.swatches.findChildren(MotifButton)[-1]
    s.select([5])
    QTest.mouseClick(button, LEFT)  # not along itself
    assert len(s.selection) == 1 and s.first.id != 5
    for _ in range(6):
        press(window, Qt.Key.Key_Z, CTRL)
    assert s.document == before and not window.swatches.findChildren(MotifButton)


def test_what_is_put_into_its_own_copy_is_linked_no_more():
    """It held itself, and grew with every edit: directly, and by way of another set."""
    doc, (copy,) = links.linked_copies(leafy(), [1])
    into = links.followed(doc, objects.move_in_tree(doc, [copy], 1, 0))
    first = Group(10, "first", (disc(11, 50, 50, 9, solid("#2b8577")),))
    second = Group(20, "second", (disc(21, 90, 50, 9, solid("#c9a24a")),))
    two = replace(sheet_of(first, second, side=400), next_id=30)
    two, (a, b) = links.linked_copies(two, [10, 20])
    crossed = links.followed(two, objects.move_in_tree(two, [20], 10, 1))
    crossed = links.followed(crossed, objects.move_in_tree(crossed, [a], b, 1))
    for doc, leaf in ((into, 2), (crossed, 11)):
        sizes = []
        for k in range(4):
            doc = links.followed(doc, objects.set_fields(doc, [leaf], opacity=0.9 - 0.1 * k))
            sizes.append(len(list(walk(doc.root))))
        assert len(set(sizes)) == 1
