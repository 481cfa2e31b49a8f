"""The pile: the object tree, front on top, with live thumbnails, eye, lock, search, drag to reorder and hold."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator

from PySide6.QtCore import QItemSelection, QItemSelectionModel, QModelIndex, Qt, QTimer
from PySide6.QtGui import QDropEvent, QMouseEvent, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from volumen.app.engine.frames import FrameLink, image_of
from volumen.app.panels.pile_painting import ID, THUMB, RowDelegate, badges
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.edit import objects
from volumen.edit.links import linked_with
from volumen.model.nodes import Group, Node, Shape
from volumen.model.sequences import in_order, same_ends
from volumen.model.tree import find, walk
from volumen.picture.purity import WORDS
from volumen.render.worker.messages import ImageAnswer
from volumen.shading.lamp import Lights

_MANY = 200  # rows


class Tree(QTreeWidget):
    """The tree widget of the pile: clicks on badges, drags that restack."""

    def __init__(self, pile: Pile) -> None:
        super().__init__()
        self.pile = pile
        self.setHeaderHidden(True)
        self.setIndentation(14)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.DoubleClicked)
        self.setAccessibleName("pile")
        self.setMouseTracking(True)
        self.setUniformRowHeights(True)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        item = self.itemAt(event.position().toPoint())
        if item is not None and event.button() == Qt.MouseButton.LeftButton:
            from_right = self.visualItemRect(item).right() - 4 - event.position().x()
            if self.pile.badge_clicked(item.data(0, ID), from_right):
                return
        super().mousePressEvent(event)

    def dropEvent(self, event: QDropEvent) -> None:
        target = self.itemAt(event.position().toPoint())
        ids = [i.data(0, ID) for i in self.selectedItems()]
        where = self.dropIndicatorPosition()
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        self.pile.dropped(ids, target.data(0, ID) if target else None, where)


class Pile(QWidget):
    """The objects of the document, front to back, with search."""

    def __init__(self, session: Session, link: FrameLink) -> None:
        super().__init__()
        self.session, self.link = session, link
        self._nodes: dict[int, Node] = {}
        self._items: dict[int, QTreeWidgetItem] = {}
        self._links: Counter[int] = Counter()  # how many objects each link has
        self._thumbs: dict[int, QPixmap] = {}
        self._asked: dict[int, tuple[Node, Lights]] = {}  # what each small picture was asked for, kept alive with it
        self._of: object = None  # the history whose objects the small pictures show
        self._rows: dict[int, tuple[int, ...]] = {}  # the ids of the rows inside each
        self._unfolded: dict[int, bool] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.setContentsMargins(14, 0, 12, 0)
        title = QLabel("PILE")
        title.setObjectName("heading")
        self.count = QLabel()
        self.count.setObjectName("quiet")
        head.addWidget(title)
        head.addStretch(1)
        head.addWidget(self.count)
        column.addLayout(head)
        self.search = QLineEdit()
        self.search.setPlaceholderText("search by name or kind")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._filter)
        holder = QHBoxLayout()
        holder.setContentsMargins(12, 0, 12, 0)
        holder.addWidget(self.search)
        column.addLayout(holder)
        self.tree = Tree(self)
        self.tree.setItemDelegate(RowDelegate(self, self))
        self.tree.itemSelectionChanged.connect(self._selected)
        self.tree.itemExpanded.connect(lambda item: self._unfolded.update({item.data(0, ID): True}))
        self.tree.itemCollapsed.connect(lambda item: self._unfolded.update({item.data(0, ID): False}))
        column.addWidget(self.tree, 1)
        self._busy = False
        self._thumb_timer = QTimer(self, singleShot=True, interval=350)
        self._thumb_timer.timeout.connect(self._ask_thumbs)
        self.tree.verticalScrollBar().valueChanged.connect(lambda: self._thumb_timer.start())
        self.tree.itemExpanded.connect(lambda _: self._thumb_timer.start())
        link.renewed.connect(self._ask_again)
        session.on((News.DOCUMENT,), self.refresh)
        session.on((News.SELECTION,), self._show_selection)
        session.on((News.PURITY,), self._say_purity)
        self.refresh()

    # -- showing

    def node(self, node_id: int) -> Node | None:
        """The node of a row."""
        return self._nodes.get(node_id)

    def linked(self, node: Node) -> int:
        """How many objects are linked with one, itself included."""
        return self._links.get(node.link, 0) if node.link is not None else 0

    def badge_clicked(self, node_id: int, from_right: float) -> bool:
        """Act on the badge of a row that is clicked so far from its right end; False if there is none."""
        node = self._nodes.get(node_id)
        for badge in badges(node, self.linked(node)) if node is not None else ():
            if 0 < from_right <= badge.width:
                if badge.act == "linked":
                    self.session.select(linked_with(self.session.document, node_id))
                elif badge.act:
                    self.flip(node_id, badge.act)
                return bool(badge.act)
            from_right -= badge.width
        return False

    def refresh(self) -> None:
        """Rows follow the tree. During a gesture only the rows' texts can change, so they are just repainted."""
        if self.session.history.in_gesture:
            self._thumb_timer.start()
            return
        if self._of is not self.session.history:  # another document
            self._of = self.session.history
            self._thumbs.clear()
            self._asked.clear()
        root, before = self.session.document.root, self._nodes
        if before.get(root.id) is not root:
            self._nodes = {n.id: n for n in walk(root)}
            self._links = Counter(n.link for n in self._nodes.values() if n.link is not None)
            self._busy = True
            self._follow(root, self.tree.invisibleRootItem(), before)
            self._busy = False
            self._show_selection()
            if self.search.text():
                self._filter()
        self.tree.viewport().update()
        number = len(self._nodes) - 1
        self.count.setText(f"{number} object{'' if number == 1 else 's'}")
        self._thumb_timer.start()

    def _follow(self, node: Node, item: QTreeWidgetItem, before: dict[int, Node]) -> None:
        """Rows in front-to-back order for what a node holds; rows that stay are left alone, so thousands cost nothing."""
        old, new = self._rows.get(node.id, ()), tuple(c.id for c in reversed(node.children))
        low, end = same_ends(old, new)
        stay = in_order(old[low : len(old) - end], new[low : len(new) - end])
        if len(old) - low - end - len(stay) > _MANY:  # one by one would take long
            for row in item.takeChildren():
                self._forget(row)
            old, low, end, stay = (), 0, 0, set()
        for i in reversed(range(low, len(old) - end)):
            if old[i] not in stay:
                self._forget(item.takeChild(i))
        made: list[QTreeWidgetItem] = []
        for i, child in enumerate(reversed(node.children)):
            if low <= i < len(new) - end and child.id not in stay:
                made.append(self._row(child))
                if old:
                    item.insertChild(i, made[-1])
            elif before.get(child.id) is not child:
                self._items[child.id].setText(0, child.name)
                self._follow(child, self._items[child.id], before)
        if not old:
            item.addChildren(made)
        for row in made:
            self._unfold(row)
        self._rows[node.id] = new

    def _row(self, node: Node) -> QTreeWidgetItem:
        """A row with all that its node holds."""
        item = QTreeWidgetItem()
        item.setData(0, ID, node.id)
        item.setText(0, node.name)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        item.addChildren([self._row(child) for child in reversed(node.children)])
        self._items[node.id] = item
        self._rows[node.id] = tuple(c.id for c in reversed(node.children))
        return item

    def _forget(self, item: QTreeWidgetItem | None) -> None:
        """Drop a row that was taken out."""
        if item is None:
            return
        node_id = item.data(0, ID)
        if self._items.get(node_id) is item:
            del self._items[node_id]
            del self._rows[node_id]
        for i in range(item.childCount()):
            self._forget(item.child(i))

    def _unfold(self, item: QTreeWidgetItem) -> None:
        """Unfold a new row as it was, or where it holds few."""
        if item.childCount():
            item.setExpanded(self._unfolded.get(item.data(0, ID), item.childCount() <= 8))
            for inner in (item.child(i) for i in range(item.childCount())):
                if inner is not None:
                    self._unfold(inner)

    def _show_selection(self) -> None:
        self._busy = True
        flag = QItemSelectionModel.SelectionFlag
        self.tree.selectionModel().select(self._rows_of(self.session.selection), flag.ClearAndSelect | flag.Rows)
        if len(self.session.selection) == 1 and (item := self._items.get(self.session.selection[0])):
            self.tree.selectionModel().setCurrentIndex(
                self.tree.indexFromItem(item), QItemSelectionModel.SelectionFlag.NoUpdate
            )
            self.tree.scrollToItem(item)
        self._busy = False

    def _rows_of(self, ids: tuple[int, ...]) -> QItemSelection:
        """The rows of some nodes, neighbours in one range: thousands one by one would take a minute."""
        rows: dict[QModelIndex, list[int]] = {}
        for item in (self._items[i] for i in ids if i in self._items):
            index = self.tree.indexFromItem(item)
            rows.setdefault(index.parent(), []).append(index.row())
        found = QItemSelection()
        model = self.tree.model()
        for parent, numbers in rows.items():
            numbers.sort()
            start = numbers[0]
            for row, following in zip(numbers, [*numbers[1:], -1], strict=True):
                if following != row + 1:
                    found.select(model.index(start, 0, parent), model.index(row, 0, parent))
                    start = following
        return found

    def _filter(self) -> None:
        words = self.search.text().lower().split()

        def show(item: QTreeWidgetItem) -> bool:
            node = self._nodes.get(item.data(0, ID))
            text = "" if node is None else f"{node.name} {_kind(node)}".lower()
            below = [show(child) for i in range(item.childCount()) if (child := item.child(i)) is not None]
            visible = all(w in text for w in words) or any(below)
            item.setHidden(not visible)
            return visible

        for i in range(self.tree.topLevelItemCount()):
            item = self.tree.topLevelItem(i)
            if item is not None:
                show(item)

    # -- thumbnails

    def thumbnail(self, node: Node) -> QPixmap | None:
        """The last picture of a node; a newer one is on its way if it has changed."""
        return self._thumbs.get(node.id)

    def _ask_again(self) -> None:
        self._asked.clear()
        self._thumb_timer.start()

    def _ask_thumbs(self) -> None:
        """Pictures for the rows in sight whose nodes have changed; only when the hand rests."""
        if self.session.history.in_gesture or not self.link.idle:
            self._thumb_timer.start()
            return
        lights = self.session.document.lights
        for item in self._in_sight():
            node_id = item.data(0, ID)
            node = self._nodes.get(node_id)
            if node is None:
                continue
            known = self._asked.get(node_id)
            if known is None or known[0] is not node or known[1] != lights:
                self._asked[node_id] = (node, lights)
                size = (THUMB.width() * 2 - 4, THUMB.height() * 2 - 4)
                self.link.request_image((node_id,), size, False, self._receiver(node_id, self._of))

    def _in_sight(self) -> Iterator[QTreeWidgetItem]:
        """The rows that can be seen now."""
        bottom = self.tree.viewport().height()
        item = self.tree.itemAt(2, 2)
        while item is not None and self.tree.visualItemRect(item).top() <= bottom:
            yield item
            item = self.tree.itemBelow(item)

    def _say_purity(self) -> None:
        """Each row's tip tells what exports will hold for the object, with all inside it."""
        for node_id, purity in self.session.purity.items():
            item = self._items.get(node_id)
            if item is not None:
                why = f" ({', '.join(purity.reasons)})" if purity.reasons else ""
                item.setToolTip(0, f"in SVG: {WORDS[purity.svg]}, in PDF: {WORDS[purity.pdf]}{why}")

    def _receiver(self, node_id: int, history: object) -> Callable[[ImageAnswer], None]:
        def take(answer: ImageAnswer) -> None:
            if history is not self._of:
                return  # of a document that is not open any more
            if not answer.width:
                self._thumbs.pop(node_id, None)
            else:
                pixmap = QPixmap.fromImage(image_of(answer))
                pixmap.setDevicePixelRatio(2.0)
                self._thumbs[node_id] = pixmap
            self.tree.viewport().update()

        return take

    # -- editing

    def _selected(self) -> None:
        if not self._busy:
            self.session.select([i.data(0, ID) for i in self.tree.selectedItems()])

    def rename(self, node_id: int, name: str) -> None:
        node = self._nodes.get(node_id)
        if node is not None and name.strip() and name != node.name:
            self.session.apply("rename", objects.set_fields(self.session.document, [node_id], name=name.strip()[:200]))

    def rename_selected(self) -> None:
        item = self._items.get(self.session.selection[0]) if self.session.selection else None
        if item is not None:
            self.tree.setFocus()
            self.tree.editItem(item, 0)

    def flip(self, node_id: int, field: str) -> None:
        node = self._nodes.get(node_id)
        if node is not None:
            ids = self.session.selection if node_id in self.session.selection else (node_id,)
            label = {"visible": "show or hide", "locked": "lock or unlock", "lines_only": "lines only, or all"}[field]
            self.session.apply(
                label, objects.set_fields(self.session.document, ids, **{field: not getattr(node, field)})
            )

    def dropped(self, ids: list[int], target: int | None, where: QAbstractItemView.DropIndicatorPosition) -> None:
        """Rows were dropped: onto a row holds them inside it, between rows reorders."""
        document = self.session.document
        place = QAbstractItemView.DropIndicatorPosition
        if target is None:
            changed = objects.move_in_tree(document, ids, document.root.id, 0)
        elif where == place.OnItem:
            node = find(document, target)
            changed = objects.move_in_tree(document, ids, target, len(node.children) if node else 0)
        else:
            from volumen.model.tree import parent_of

            parent = parent_of(document, target)
            if parent is None:
                return
            index = next(i for i, c in enumerate(parent.children) if c.id == target)
            # Front lies on top, so "above" a row is in front of it.
            changed = objects.move_in_tree(document, ids, parent.id, index + (where == place.AboveItem))
        self.session.apply("reorder", changed)


def _kind(node: Node) -> str:
    if isinstance(node, Shape):
        return type(node.form).__name__.removesuffix("Form").lower()
    return "group" if isinstance(node, Group) else "reference image"
