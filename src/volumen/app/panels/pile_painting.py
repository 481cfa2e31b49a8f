"""The rows of the pile as they are painted and renamed."""

from __future__ import annotations

from typing import Any, NamedTuple, Protocol

from PySide6.QtCore import QModelIndex, QRect, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPixmap
from PySide6.QtWidgets import QLineEdit, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from volumen.app import theme
from volumen.app.state.session import Session
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import Node
from volumen.model.tree import world_of

ID = Qt.ItemDataRole.UserRole
THUMB = QSize(26, 21)


class PileRows(Protocol):
    """What is shown in the rows, and who is told of a new name."""

    session: Session

    def node(self, node_id: int) -> Node | None: ...

    def thumbnail(self, node: Node) -> QPixmap | None: ...

    def rename(self, node_id: int, name: str) -> None: ...

    def linked(self, node: Node) -> int: ...


class Badge(NamedTuple):
    """A sign at the right of a row: what a click on it does, its icon, whether it is set (others show under the
    pointer only), its width, and words beside it."""

    act: str
    icon: str
    set: bool
    width: int = 19
    words: str = ""


def badges(node: Node, linked: int) -> list[Badge]:
    """The badges of a row, from the right; ``linked`` is how many objects are linked with it, itself included."""
    out = [
        Badge("visible", "eye" if node.visible else "eye-off", not node.visible),
        Badge("locked", "lock" if node.locked else "lock-open", node.locked),
    ]
    if node.own_lamp is not None or node.unlit:
        out.append(Badge("", "lightbulb-off" if node.unlit else "lightbulb", True))
    if node.lines_only:
        out.append(Badge("lines_only", "pen-line", True))
    if linked > 1:
        out.append(Badge("linked", "link", True, 34, f"{linked}"))
    return out


class RowDelegate(QStyledItemDelegate):
    """Thumbnail, name, lift, and the badges: hidden, locked, in a light of its own, lines only, linked."""

    def __init__(self, pile: PileRows, parent: QWidget) -> None:
        super().__init__(parent)
        self.pile = pile

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | Any) -> None:
        node = self.pile.node(index.data(ID))
        box = option.rect
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(QRect(0, box.top(), box.right() + 1, box.height()), QColor(theme.CARD))
            painter.fillRect(QRect(0, box.top(), 3, box.height()), QColor(theme.VERMILION))
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(QRect(0, box.top(), box.right() + 1, box.height()), QColor("#e8e6e0"))
        if node is None:
            return
        thumb = self.pile.thumbnail(node)
        frame = QRect(box.left() + 2, box.top() + 4, THUMB.width(), THUMB.height())
        painter.fillRect(frame, QColor("#dbd8d1"))
        if thumb is not None:
            size = thumb.deviceIndependentSize()
            painter.drawPixmap(
                round(frame.center().x() + 0.5 - size.width() / 2),
                round(frame.center().y() + 0.5 - size.height() / 2),
                thumb,
            )
        hovered = bool(option.state & QStyle.StateFlag.State_MouseOver)
        right = box.right() - 4
        for badge in badges(node, self.pile.linked(node)):
            right -= badge.width
            if not badge.set and not hovered:
                continue
            painter.drawPixmap(right, box.top() + 7, theme.icon_pixmap(badge.icon, theme.SOFT_INK, 15))
            if badge.words:
                painter.setPen(QColor(theme.SOFT_INK))
                count = QRect(right + 17, box.top(), badge.width - 17, box.height())
                painter.drawText(count, Qt.AlignmentFlag.AlignVCenter, badge.words)
        text = QRect(frame.right() + 8, box.top(), right - frame.right() - 10, box.height())
        painter.setPen(QColor(theme.INK if node.visible else theme.FAINT))
        name = painter.fontMetrics().elidedText(node.name, Qt.TextElideMode.ElideRight, text.width())
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, name)
        if node.lift and not option.state & QStyle.StateFlag.State_MouseOver:
            painter.setPen(QColor(theme.FAINT))
            lift = f"lift {lift_on_sheet(node, world_of(self.pile.session.document, node.id)):.0f}"
            used = painter.fontMetrics().horizontalAdvance(name) + painter.fontMetrics().horizontalAdvance(lift) + 12
            if used < text.width() + 38 and not node.locked and node.visible:
                painter.drawText(
                    QRect(text.left(), box.top(), box.right() - 6 - text.left(), box.height()),
                    Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, lift,
                )  # fmt: skip

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Any) -> QWidget:
        return QLineEdit(parent)

    def setEditorData(self, editor: QWidget, index: Any) -> None:
        node = self.pile.node(index.data(ID))
        assert isinstance(editor, QLineEdit)
        editor.setText(node.name if node else "")

    def setModelData(self, editor: QWidget, model: Any, index: Any) -> None:
        assert isinstance(editor, QLineEdit)
        self.pile.rename(index.data(ID), editor.text())
