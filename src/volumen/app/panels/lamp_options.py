"""The lamps beside their tool: a ball to drag on, numbers, colours, and settings to save and switch between."""

from __future__ import annotations

import math

import msgspec
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QButtonGroup, QCheckBox, QComboBox, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.balls import ball_pixmap
from volumen.app.widgets.colours import Swatch
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.painting import painted
from volumen.app.widgets.segment import ListBox, segment
from volumen.colour.srgb import to_hex
from volumen.edit import lights as lighting
from volumen.shading.lamp import Ambient, Lamp, Lights, lamp_on_dome
from volumen.shading.paint import Colour, colour

replace = msgspec.structs.replace
WHICH = ("key", "fill", "edge", "around")
_TIPS = {
    "key": "the lamp that throws the shadows",
    "fill": "a second lamp that lifts the shade",
    "edge": "a low lamp from behind that lights one edge",
    "around": "light from the sky above and the ground below",
}
_FIRST = {"fill": Lamp(140, 40, 0.4), "edge": Lamp(150, 10, 0.7)}
_COLOURS = ("#ffffff", "#ffe2b8", "#ffc07a", "#bcd6ff", "#ff9a78")
_SAVE = "save these lights …"


class LampBall(QWidget):
    """A shaded ball to drag the chosen lamp on."""

    def __init__(self, options: LampOptions) -> None:
        super().__init__()
        self.options = options
        self.setFixedSize(64, 64)
        self.setAccessibleName("lamp ball")
        self.setToolTip("Drag on the ball to place the light")
        self.setCursor(Qt.CursorShape.CrossCursor)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lamp = self.options.lamp
        painter.drawPixmap(3, 3, ball_pixmap("ball", "clay", Colour(0.72, 0.71, 0.69), lamp, 58))
        r = 28 * math.cos(math.radians(lamp.height))
        at = QPointF(32 + lamp.toward[0] * r, 32 + lamp.toward[1] * r)
        painter.setPen(QPen(QColor(theme.AMBER_DARK), 2))
        painter.setBrush(theme.qcolor(lamp.colour.rgb) if lamp.colour != Colour(1, 1, 1) else QColor(theme.AMBER))
        painter.drawEllipse(at, 4.5, 4.5)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._to(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.options.session.commit("move lamp")

    def _to(self, event: QMouseEvent) -> None:
        dx, dy = event.position().x() - 32, event.position().y() - 32
        self.options.show_lamp(lamp_on_dome(self.options.lamp, dx / 28, dy / 28))


class LampOptions(QWidget):
    """The lamps as numbers and a shaded ball."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.which = "key"
        self._listed: tuple[list[str], str] | None = None  # the saved lights in the box, and the one shown
        self.setStyleSheet(f"LampOptions {{ background: {theme.CARD}; }}")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 4, 10, 8)
        column.setSpacing(5)
        column.addLayout(self._choice())
        body = QHBoxLayout()
        self.ball = LampBall(self)
        body.addWidget(self.ball)
        numbers = QVBoxLayout()
        numbers.setSpacing(1)
        self.fields: dict[str, NumberField] = {}
        self.labels: dict[str, QLabel] = {}
        for name, unit, low, high, factor in (
            ("bearing", "°", -1e6, 1e6, 1),
            ("height", "°", 0, 90, 1),
            ("strength", " %", 0, 1000, 100),
            ("size", " %", 0, 1000, 100),
        ):
            line = QHBoxLayout()
            label = QLabel({"size": "softness"}.get(name, name))
            label.setObjectName("quiet")
            field = NumberField(f"lamp {name}", unit, 1, low, high)
            field.setFixedWidth(54)
            field.refused.connect(session.say)
            field.preview.connect(lambda v, n=name, f=factor: self._set(n, v / f, False))
            field.done.connect(lambda v, n=name, f=factor: self._set(n, v / f, True))
            self.fields[name], self.labels[name] = field, label
            line.addWidget(label)
            line.addWidget(field)
            numbers.addLayout(line)
        body.addLayout(numbers, 1)
        column.addLayout(body)
        self.throws = QCheckBox("throws shadows")
        self.throws.setAccessibleName("this lamp throws shadows")
        self.throws.setToolTip("Weaker shadows of its own beside those of the key lamp")
        self.throws.clicked.connect(self._throw)
        column.addWidget(self.throws)
        self.whose = QLabel()
        self.whose.setObjectName("quiet")
        self.whose.setStyleSheet(f"color: {theme.OWN_LAMP_DARK};")
        column.addWidget(self.whose)
        column.addLayout(self._colours())
        column.addLayout(self._sets())
        session.on((News.DOCUMENT, News.SELECTION), self.refresh)
        self.refresh()

    def _choice(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(0)
        self.group = QButtonGroup(self)
        for k, name in enumerate(WHICH):
            button = segment(name, exclusive=True)
            button.setToolTip(_TIPS[name])
            button.setStyleSheet("padding-left: 4px; padding-right: 4px;")
            button.setMinimumWidth(38)
            button.setAccessibleName(f"lamp: {name}")
            self.group.addButton(button, k)
            row.addWidget(button, 1)
        self.group.idClicked.connect(lambda k: self.choose(WHICH[k]))
        return row

    def _colours(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(3)
        self.swatches = []
        for value in _COLOURS:
            swatch = Swatch(f"light {value}", 18)
            swatch.show_colour(colour(value))
            swatch.clicked.connect(lambda _=False, c=value: self._colour(colour(c)))
            self.swatches.append(swatch)
            row.addWidget(swatch)
        self.hex = QLineEdit()
        self.hex.setAccessibleName("colour of the light")
        self.hex.setToolTip("Any colour, as #rrggbb")
        self.hex.editingFinished.connect(self._typed)
        self.hex.setMinimumWidth(36)
        row.addWidget(self.hex, 1)
        return row

    def _sets(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.sets = ListBox()
        self.sets.setAccessibleName("saved lights")
        self.sets.setToolTip("All lights at once: ready settings, and those saved with the document")
        self.sets.activated.connect(self._chosen)
        self.sets.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.sets.setMinimumContentsLength(6)
        self.name = QLineEdit()
        self.name.setMinimumWidth(40)
        self.name.setPlaceholderText("name, then Return")
        self.name.hide()
        self.name.returnPressed.connect(self._save)
        row.addWidget(self.sets, 1)
        row.addWidget(self.name, 1)
        return row

    # -- the chosen lamp

    @property
    def lamp(self) -> Lamp:
        """The lamp in hand; one that is not lit yet is shown as it would begin."""
        lights = self.session.document.lights
        key = lighting.key_in_hand(self.session.document, self.session.selection)
        own = {"key": key, "fill": lights.fill, "edge": lights.edge}.get(self.which, lights.key)
        return own or _FIRST[self.which]

    def choose(self, which: str) -> None:
        """Take another lamp in hand; a fill or edge lamp is lit by that."""
        self.which = which
        if which in _FIRST and getattr(self.session.document.lights, which) is None:
            self.show_lamp(_FIRST[which])
            self.session.commit(f"light the {which} lamp")
        if which == "around" and self.session.document.ambient.strength <= 0:
            self._show(ambient=Ambient(0.2))
            self.session.commit("light from around")
        self.refresh()

    def show_lamp(self, lamp: Lamp) -> None:
        if self.which == "key":
            s = self.session
            s.preview(lighting.with_key_in_hand(s.document, s.selection, lamp))
        else:
            self._show(**{"key" if self.which == "around" else self.which: lamp})

    def _show(self, **changes: object) -> None:
        document = self.session.document
        self.session.preview(document.with_lights(replace(document.lights, **changes)))

    def _set(self, name: str, value: float, final: bool) -> None:
        if self.which == "around":
            if name == "strength":
                self._show(ambient=replace(self.session.document.ambient, strength=value))
        elif name == "strength" and value <= 0 and self.which != "key":
            self._show(**{self.which: None})
        else:
            self.show_lamp(replace(self.lamp, **{name: value % 360 if name == "bearing" else value}))
        if final:
            self.session.commit("change lamp")

    def _throw(self, on: bool) -> None:
        self.show_lamp(replace(self.lamp, throws=on))
        self.session.commit("shadows of a second lamp")

    def _colour(self, value: Colour) -> None:
        if self.which == "around":
            self._show(ambient=replace(self.session.document.ambient, sky=value))
        else:
            self.show_lamp(replace(self.lamp, colour=value))
        self.session.commit("colour of the light")

    def _typed(self) -> None:
        text = self.hex.text().strip()
        try:
            self._colour(colour(text if text.startswith("#") else f"#{text}"))
        except ValueError:
            self.session.say("a colour is written as #rrggbb")
            self.refresh()

    # -- settings

    def _chosen(self, at: int) -> None:
        word = self.sets.itemText(at)
        if word == _SAVE:
            self.name.show()
            self.name.setFocus()
            return
        found = next((s for s in lighting.lamp_sets(self.session.document) if s.name == word), None)
        if found is not None:
            self.session.apply(f"lights: {word}", self.session.document.with_lights(found.lights))

    def _save(self) -> None:
        if self.name.text().strip():
            self.session.apply(
                "save lights", lighting.save_lights(self.session.document, self.name.text().strip()[:60])
            )
        self.name.clear()
        self.name.hide()

    def refresh(self) -> None:
        lights: Lights = self.session.document.lights
        around = self.which == "around"
        lamp = self.lamp
        self.group.button(WHICH.index(self.which)).setChecked(True)
        for name, factor in (("bearing", 1), ("height", 1), ("strength", 100), ("size", 100)):
            value = lights.ambient.strength if around and name == "strength" else getattr(lamp, name)
            dark = self.which in _FIRST and getattr(lights, self.which) is None and name == "strength"
            self.fields[name].show_value(0.0 if dark else value * factor)
            self.fields[name].setEnabled(not around or name == "strength")
        owners = lighting.whose_lamp(self.session.document, self.session.selection) if self.which == "key" else ()
        self.whose.setVisible(bool(owners))
        self.whose.setText(lighting.lamp_words(owners))
        self.throws.setVisible(self.which in _FIRST)
        self.throws.setChecked(lamp.throws)
        shown = lights.ambient.sky if around else lamp.colour
        if not self.hex.hasFocus():
            self.hex.setText(to_hex(shown.rgb))
        known = lighting.lamp_sets(self.session.document)
        own = next((s.name for s in known if s.lights == lights), "lights of your own")
        names = [*(s.name for s in known), *([own] if own == "lights of your own" else []), _SAVE]
        # Not with every step of a drag: all beside it would be painted anew.
        if (names, own) != self._listed or self.sets.currentText() != own:
            self._listed = (names, own)
            self.sets.blockSignals(True)
            self.sets.clear()
            self.sets.addItems(names)
            self.sets.setCurrentText(own)
            self.sets.blockSignals(False)
        self.ball.update()
