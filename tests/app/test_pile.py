"""The rows of the pile follow any change of the tree, whatever stays of them."""

import random

from hypothesis import given
from hypothesis import strategies as st

from gestures import bar, put
from volumen.app.panels.pile import ID
from volumen.edit import objects
from volumen.model.nodes import Group
from volumen.model.sequences import in_order
from volumen.model.tree import walk


@given(st.permutations(range(12)), st.sets(st.integers(0, 11)), st.sets(st.integers(0, 11)))
def test_what_stays_is_the_longest_run_in_order(new, gone, lost):
    old, new = [i for i in range(12) if i not in lost], [i for i in new if i not in gone]
    stays = in_order(old, new)
    assert [i for i in new if i in stays] == [i for i in old if i in stays], "the same order in both"
    best = [0] * 12  # the longest run that ends with each, by trying all
    for k, i in enumerate(new):
        best[i] = (i in old) * (1 + max((best[j] for j in new[:k] if j < i and j in old), default=0))
    assert len(stays) == max(best)


def rows(item):
    return [(item.child(i).data(0, ID), item.child(i).text(0), rows(item.child(i))) for i in range(item.childCount())]


def wanted(node):
    return [(c.id, c.name, wanted(c)) for c in reversed(node.children)]


def test_rows_follow_moves_groups_removals_and_undo(window):
    s, rng = window.session, random.Random(4)
    nodes = [bar(i, 100 + i) for i in range(1, 13)]
    put(window, *nodes[:6], Group(20, "harbour", tuple(nodes[6:9])), Group(21, "pier", tuple(nodes[9:])))
    tree = window.pile.tree.invisibleRootItem()
    assert rows(tree) == wanted(s.document.root)
    window.pile._items[20].setExpanded(False)
    for step in range(30):
        ids = [n.id for n in walk(s.document.root) if n.id]
        some = rng.sample(ids, min(2, len(ids)))
        parent = rng.choice([n.id for n in walk(s.document.root) if isinstance(n, Group)])
        inside = {n.id for i in some for n in walk(s.document.root) if n.id == i for n in walk(n)}
        if step % 5 == 4:
            s.undo()
        elif step % 5 == 3:
            s.apply("rename", objects.set_fields(s.document, some, name=f"n{step}"))
        elif parent not in inside:
            s.apply("move", objects.move_in_tree(s.document, some, parent, rng.randint(0, 3)))
        assert rows(tree) == wanted(s.document.root), step
        assert set(window.pile._items) == {n.id for n in walk(s.document.root)} - {0}
    assert not window.pile._items[20].isExpanded() or not window.pile._items[20].childCount(), "it stays folded"
    put(window, *(bar(i, 90 + i) for i in range(300, 0, -1)))
    assert rows(tree) == wanted(s.document.root) and len(window.pile._items) == 300
