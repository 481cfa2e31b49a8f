"""The look: plaster, ink and lamp. Colours, typeface, icons, style sheet."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QFontDatabase, QIcon, QImage, QPainter, QPalette, QPixmap
from PySide6.QtWidgets import QApplication

from volumen.geometry.fonts import BUNDLED

ASSETS = Path(__file__).parent / "assets"

PLASTER, PANEL, CARD, EDGE = "#efeeea", "#e5e4df", "#fbfaf7", "#d3d1ca"
INK, SOFT_INK, FAINT = "#20242a", "#5b5f63", "#8d8f8f"
AMBER, AMBER_DARK, VERMILION = "#f0ae45", "#b3700a", "#c8402a"
OWN_LAMP, OWN_LAMP_DARK = "#6fb7ad", "#1d6f66"
DESK = "#bdbcb8"
SECTION = "#dad8d1"


def load_fonts(app: QApplication) -> None:
    """Use the bundled typeface with figures of even width."""
    for file in sorted(BUNDLED.glob("Figtree*.ttf")):
        QFontDatabase.addApplicationFont(str(file))
    font = QFont("Figtree")
    font.setPixelSize(13)
    font.setFeature(QFont.Tag("tnum"), 1)
    app.setFont(font)


def dress(app: QApplication) -> None:
    """Give an application its typeface and its look, whatever colours the system has."""
    prepare(app)
    app.setStyleSheet(STYLE)


def prepare(app: QApplication) -> None:
    """All of the look but the style sheet. A widget is polished by that anew whenever it gets another parent, so a
    window is built in half the time if the sheet is set once it stands."""
    app.setStyleSheet("")
    load_fonts(app)
    app.setStyle("Fusion")
    app.setPalette(_palette())


def _palette() -> QPalette:
    """Every role, so that nothing of a dark system shows through in dialogs and help."""
    role, group = QPalette.ColorRole, QPalette.ColorGroup
    colours = {
        role.Window: PLASTER, role.WindowText: INK, role.Base: CARD, role.AlternateBase: PANEL, role.Text: INK,
        role.ToolTipBase: INK, role.ToolTipText: CARD, role.PlaceholderText: FAINT, role.Button: PANEL,
        role.ButtonText: INK, role.BrightText: "#ffffff", role.Light: "#ffffff", role.Midlight: CARD, role.Dark: FAINT,
        role.Mid: EDGE, role.Shadow: SOFT_INK, role.Highlight: AMBER, role.HighlightedText: INK, role.Link: AMBER_DARK,
        role.LinkVisited: SOFT_INK, role.Accent: AMBER_DARK,
    }  # fmt: skip
    made = QPalette()
    for which, value in colours.items():
        made.setColor(which, QColor(value))
    for which in (role.WindowText, role.Text, role.ButtonText):
        made.setColor(group.Disabled, which, QColor(FAINT))
    return made


SQUARE = 8  # pixels: a clear ground is seen as quiet squares of this size


def paint_squares(painter: QPainter, box: QRectF, side: int = SQUARE) -> None:
    """A clear ground: squares of two light greys, fixed to the corner of the box."""
    tile = QImage(2 * side, 2 * side, QImage.Format.Format_RGB32)
    tile.fill(QColor("#ffffff"))
    under = QPainter(tile)
    for x, y in ((0, 0), (side, side)):
        under.fillRect(x, y, side, side, QColor("#ecebe8"))
    under.end()
    painter.save()
    painter.setBrushOrigin(box.topLeft())
    painter.fillRect(box, QBrush(tile))
    painter.restore()


def icon_pixmap(name: str, colour: str = INK, size: int = 16, ratio: float = 2.0) -> QPixmap:
    """An icon drawn in one colour."""
    pixmap = QPixmap.fromImage(_icon_image(name, colour, size, ratio))
    pixmap.setDevicePixelRatio(ratio)
    return pixmap


@lru_cache(maxsize=256)
def _icon_image(name: str, colour: str, size: int, ratio: float) -> QImage:
    """Images are kept, not pixmaps: those must not outlive the application object."""
    image = QImage(int(size * ratio), int(size * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    _draw_svg(painter, name, colour, size * ratio)
    painter.end()
    return image


def _draw_svg(painter: QPainter, name: str, colour: str, size: float) -> None:
    from PySide6.QtSvg import QSvgRenderer

    text = (ASSETS / "icons" / f"{name}.svg").read_text(encoding="utf-8").replace("currentColor", colour)
    QSvgRenderer(QByteArray(text.encode())).render(painter, QRectF(0, 0, size, size))


def icon(name: str, colour: str = INK) -> QIcon:
    return QIcon(icon_pixmap(name, colour))


def qcolor(rgb: tuple[float, float, float], alpha: float = 1.0) -> QColor:
    r, g, b = (min(max(v, 0.0), 1.0) for v in rgb)
    return QColor.fromRgbF(r, g, b, min(max(alpha, 0.0), 1.0))


STYLE = f"""
* {{ color: {INK}; font-family: Figtree; font-size: 13px; }}
QMainWindow, QWidget#plain {{ background: {PLASTER}; }}
QMenuBar {{ background: {PANEL}; padding: 2px 6px; }}
QMenuBar::item {{ padding: 4px 9px; border-radius: 4px; background: transparent; }}
QMenuBar::item:selected {{ background: {EDGE}; }}
QMenu {{ background: {CARD}; border: 1px solid {EDGE}; padding: 5px; }}
QMenu::item {{ padding: 5px 26px 5px 22px; border-radius: 4px; }}
QMenu::item:selected {{ background: {PANEL}; }}
QMenu::item:disabled {{ color: {FAINT}; }}
QMenu::separator {{ height: 1px; background: {EDGE}; margin: 4px 8px; }}
QWidget#side {{ background: {PLASTER}; }}
QFrame#rule {{ background: {EDGE}; border: none; }}
QLabel#heading {{ color: {SOFT_INK}; font-size: 11px; font-weight: 600; letter-spacing: 1px; }}
QLabel#quiet {{ color: {SOFT_INK}; font-size: 12px; }}
QLabel#strong {{ font-weight: 600; }}
QSplitter::handle:horizontal {{ background: {PLASTER}; border-left: 2px solid {PLASTER}; border-right: 2px solid {EDGE}; }}
QSplitter::handle:horizontal:hover {{ background: {AMBER}; }}
QScrollArea {{ background: transparent; border: none; }}
QScrollBar:vertical {{ width: 9px; background: transparent; margin: 0; }}
QScrollBar::handle:vertical {{ background: #c4c2bb; border-radius: 4px; min-height: 26px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar:horizontal {{ height: 0; }}
QTreeWidget {{ background: transparent; border: none; outline: none; }}
QTreeWidget::item {{ height: 29px; border: none; }}
QTreeWidget::item:selected {{ background: {CARD}; color: {INK}; border-left: 3px solid {VERMILION}; }}
QTreeWidget::item:hover:!selected {{ background: #e8e6e0; }}
QLineEdit {{ background: {CARD}; border: 1px solid {EDGE}; border-radius: 4px; padding: 3px 6px; selection-background-color: {AMBER}; selection-color: {INK}; }}
QLineEdit:focus {{ border: 1px solid {AMBER_DARK}; }}
QLineEdit#number {{ background: transparent; border: none; border-bottom: 1px dotted #9c9a92; border-radius: 0; padding: 1px 2px; }}
QLineEdit#number:focus {{ background: white; border-bottom: 1px solid {AMBER_DARK}; }}
QComboBox {{ background: {CARD}; border: 1px solid {EDGE}; border-radius: 4px; padding: 2px 6px; min-height: 20px; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox::down-arrow {{ image: url({(ASSETS / "icons" / "chevron-down.svg").as_posix()}); width: 12px; height: 12px; }}
QComboBox QAbstractItemView {{ background: {CARD}; border: 1px solid {EDGE}; selection-background-color: {PANEL}; selection-color: {INK}; outline: none; }}
QToolTip {{ background: {INK}; color: {CARD}; border: none; padding: 4px 7px; }}
QPushButton {{ background: {CARD}; border: 1px solid {EDGE}; border-radius: 5px; padding: 5px 12px; }}
QPushButton:hover {{ border-color: {FAINT}; }}
QPushButton:disabled {{ color: {FAINT}; }}
QPushButton#small {{ padding: 2px 4px; font-size: 12px; }}
QPushButton#menu {{ text-align: left; border-radius: 4px; padding: 2px 18px 2px 13px; min-height: 20px; }}
QPushButton#menu::menu-indicator {{ image: url({(ASSETS / "icons" / "chevron-down.svg").as_posix()}); width: 12px; height: 12px; subcontrol-position: right center; right: 4px; }}
QPushButton#dashed {{ background: transparent; border: 1px dashed {FAINT}; color: {SOFT_INK}; text-align: left; }}
QPushButton#main {{ background: {INK}; color: {CARD}; border-color: {INK}; font-weight: 600; }}
QPushButton#main:disabled {{ background: {FAINT}; border-color: {FAINT}; }}
QToolButton {{ background: transparent; border: none; border-radius: 4px; padding: 2px; }}
QToolButton:hover {{ background: {PANEL}; }}
QToolButton#segment {{ padding: 3px 9px; border: 1px solid {EDGE}; border-radius: 4px; background: {CARD}; font-size: 12px; }}
QToolButton#segment:checked {{ background: {INK}; color: {CARD}; border-color: {INK}; }}
QFrame#card {{ background: {CARD}; border: 1px solid {EDGE}; border-radius: 6px; }}
QFrame#card[open="true"] {{ border: 1px solid {AMBER_DARK}; }}
QFrame#card[off="true"] QLabel {{ color: {FAINT}; }}
QListWidget::item:selected {{ background: {EDGE}; color: {INK}; }}
QListWidget {{ outline: none; }}
QStatusBar {{ background: {PANEL}; border-top: 1px solid {EDGE}; }}
QStatusBar::item {{ border: none; }}
QProgressBar {{ border: 1px solid {EDGE}; border-radius: 4px; background: {CARD}; height: 12px; text-align: center; font-size: 11px; }}
QProgressBar::chunk {{ background: {AMBER}; border-radius: 3px; }}
QCheckBox {{ spacing: 7px; }}
QMessageBox, QDialog, QTextBrowser, QFileDialog QListView, QFileDialog QTreeView {{ background: {PLASTER}; color: {INK}; }}
QHeaderView::section {{ background: {PANEL}; color: {INK}; border: none; padding: 3px 6px; }}
QTextEdit, QPlainTextEdit {{ background: {CARD}; color: {INK}; border: 1px solid {EDGE}; border-radius: 4px; }}
"""
