"""The large editor under a row of the life table: range, mode and curve, or colours."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from wraithon.desktop.effects.attribute_more import AttributeMore
from wraithon.desktop.effects.units import AttributeUnit, unit_of
from wraithon.desktop.theme.colours import GROUND, INK, RAISED, TEAL
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import ShowsFocus, labelled, tool
from wraithon.desktop.widgets.colours import ColourPicker, Swatch
from wraithon.desktop.widgets.curve_editor import CurveEditor
from wraithon.desktop.widgets.fields import ChoiceField, NumberField
from wraithon.desktop.widgets.gradient_editor import GradientEditor
from wraithon.numeric.meeting import met
from wraithon.project.life import Attribute, Curve, Gradient, LifeMode, Range, Tint
from wraithon.project.paths import bounds_at

if TYPE_CHECKING:
    from collections.abc import Callable


STEPS = 100
"""Steps of the arrow keys along a bar."""


class RangeBar(ShowsFocus, QWidget):
    """A bar with two handles for the range at birth: by mouse, or by arrow keys, with Shift for the higher end.

    Signals
    -------
    edited
        The new lowest and highest, in shown units, and whether the gesture is over.
    """

    edited = Signal(float, float, bool)

    def __init__(self) -> None:
        super().__init__()
        self.low, self.high, self.bottom, self.top = 0.0, 1.0, 0.0, 1.0
        self._grip: str | None = None
        self._last = 0.0
        self._before = (0.0, 1.0)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Range at birth")
        self.setFixedHeight(20)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setToolTip(
            "Drag an end, or the middle to move both; arrow keys move both, with Shift the end, with Ctrl the start"
        )

    def set_range(self, low: float, high: float, bottom: float, top: float) -> None:
        """Show a range on a scale; while a drag goes on the scale stays."""
        self.low, self.high = low, high
        if self._grip is None:
            self.bottom, self.top = bottom, top
        self.update()

    def _x(self, value: float) -> float:
        return 7 + (value - self.bottom) / max(self.top - self.bottom, 1e-9) * (self.width() - 14)

    def _value(self, x: float) -> float:
        share = min(max((x - 7) / max(self.width() - 14, 1), 0.0), 1.0)
        return self.bottom + share * (self.top - self.bottom)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}
        if event.key() == Qt.Key.Key_Escape and self._grip is not None:
            self._grip = None
            self._report(*self._before, final=True)
        elif event.key() in ways:
            by = ways[Qt.Key(event.key())] * (self.top - self.bottom) / STEPS
            low = 0.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else by
            high = 0.0 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else by
            if low and high:
                low = high = min(max(by, self.bottom - self.low), self.top - self.high)
            start = min(max(self.low + low, self.bottom), self.top)
            self._report(start, min(max(self.high + high, start), self.top), final=True)
        else:
            super().keyPressEvent(event)

    def _report(self, low: float, high: float, *, final: bool) -> None:
        self.low, self.high = low, high
        self.update()
        self.edited.emit(low, high, final)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._before = self.low, self.high
        x = event.position().x()
        to_low, to_high = abs(x - self._x(self.low)), abs(x - self._x(self.high))
        inner = self._x(self.low) + 6 < x < self._x(self.high) - 6
        self._grip = "both" if inner else "low" if to_low < to_high or x < self._x(self.low) else "high"
        self._last = self._value(x)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            return
        value = self._value(event.position().x())
        if self._grip == "low":
            self.low = min(value, self.high)
        elif self._grip == "high":
            self.high = max(value, self.low)
        else:
            shift = min(max(value - self._last, self.bottom - self.low), self.top - self.high)
            self.low, self.high = self.low + shift, self.high + shift
        self._last = value
        self.update()
        self.edited.emit(self.low, self.high, False)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._grip is not None:
            self._grip = None
            self.edited.emit(self.low, self.high, True)

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(GROUND))
            painter.drawRoundedRect(QRectF(7, 8, self.width() - 14, 5), 2, 2)
            painter.setBrush(QColor(TEAL))
            left, right = self._x(self.low), self._x(self.high)
            painter.drawRoundedRect(QRectF(left, 8, max(right - left, 2), 5), 2, 2)
            for x in (left, right):
                painter.setBrush(QColor(INK))
                painter.drawRoundedRect(QRectF(x - 3, 3, 6, 15), 2, 2)


class AttributeEditor(QWidget):
    """The large editor under a row: range, mode and curve of numbers, or the colours of a tint.

    Signals
    -------
    edited
        The attribute as it should be, and whether the gesture is over.
    said
        Why nothing was pasted, or taken.
    """

    edited = Signal(object, bool)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("raised")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setStyleSheet(
            f"QWidget#raised {{ background: {RAISED}; }} QWidget#raised QLabel {{ background: transparent; }}"
            f"QWidget#raised QWidget#panel {{ background: {RAISED}; }}"
        )
        self._name = "size"
        self._attribute: Attribute | Tint = Attribute()
        self._whose = ""
        self._earlier: dict[str, Attribute | Tint] = {}
        """Attributes as they were before they were made steady, by name."""
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(3, 4, 3, 8)
        self._layout.setSpacing(5)
        self._bar = RangeBar()
        self._bar.edited.connect(self._bar_edited)
        self._low = NumberField(name="Lowest value at birth")
        self._high = NumberField(name="Highest value at birth")
        self._low.edited.connect(lambda v, final: self._end_edited("low", self._low, v, final))
        self._high.edited.connect(lambda v, final: self._end_edited("high", self._high, v, final))
        self.each: Callable[[Attribute], Attribute] | None = None
        """While `edited` is emitted: what the same change makes of others' attributes; None: they get this one."""
        self._loose: set[tuple[str, str]] = set()
        """Layers and attributes whose ends are equal and may differ all the same."""
        self.ties = [_tie_button(), _tie_button()]
        for tie in self.ties:
            tie.clicked.connect(self._tie)
        self._fields: dict[str, tuple[NumberField, NumberField]] = {}
        self._mode = ChoiceField(name="How the curve is combined with the value at birth")
        self._mode.edited.connect(self._mode_chosen)
        self._curve = CurveEditor()
        self._curve.edited.connect(lambda c, final: self._change(final, life=c))
        self._gradient = GradientEditor()
        self._gradient.edited.connect(lambda g, final: self._change(final, life=g))
        self._curve.plot.said.connect(self.said)
        self._gradient.strip.said.connect(self.said)
        self._swatches = [
            Swatch("First colour of the range at birth"),
            Swatch("Last colour of the range at birth"),
        ]
        for k, swatch in enumerate(self._swatches):
            swatch.clicked.connect(lambda k=k: self._swatch_clicked(k))
        self._end = 0
        self._picker = ColourPicker()
        self._picker.edited.connect(self._colour_picked)
        self.beneath = NumberField(
            "%",
            low=0,
            high=100,
            step=5,
            name="Share of the colour of the skin, or of the ground, at the place of birth",
        )
        self.beneath.edited.connect(lambda share, final: self._change(final, beneath=round(share / 100, 4)))
        self.more = AttributeMore()
        self.more.edited.connect(lambda changes, final: self._change(final, **changes))
        self.more.said.connect(self.said)
        self._build()

    def _build(self) -> None:
        self._numbers = QWidget()
        self._numbers.setObjectName("raised")
        self._number_row = QHBoxLayout(self._numbers)
        self._number_row.setContentsMargins(0, 0, 0, 0)
        self._number_row.setSpacing(6)
        self._birth_label = QLabel("at birth")
        self._birth_label.setObjectName("soft")
        self._number_row.addWidget(self._birth_label)
        self._number_row.addWidget(self._low)
        self._dash = QLabel("to")
        self._dash.setObjectName("soft")
        self._number_row.addWidget(self._dash)
        self._number_row.addWidget(self._high)
        self._number_row.addWidget(self.ties[0])
        self._tints = labelled("at birth", *self._swatches, self.ties[1], width=70)
        self._surface_colour_row = labelled("surface", self.beneath, width=70)
        self._life_row = labelled("curve", self._mode, width=70)
        for widget in (
            self._numbers,
            self._bar,
            self._tints,
            self._picker,
            self._surface_colour_row,
            self._life_row,
            self._curve,
            self._gradient,
            self.more,
        ):
            self._layout.addWidget(widget)

    def show_attribute(self, name: str, attribute: Attribute | Tint, whose: str = "") -> None:
        """Show an attribute of a layer; nothing is signalled."""
        if whose != self._whose:
            self._whose = whose
            self._earlier.clear()
        if name != self._name:
            self._name = name
            self._end = 0
        self._attribute = attribute
        colour = isinstance(attribute, Tint)
        for widget in (self._numbers, self._bar):
            widget.setVisible(not colour)
        for widget in (self._tints, self._picker, self._surface_colour_row):
            widget.setVisible(colour)
        self.more.setVisible(not colour)
        self._life_row.setVisible(name != "lifetime")
        self._curve.setVisible(not colour and attribute.life is not None and name != "lifetime")
        self._gradient.setVisible(colour and attribute.life is not None)
        modes = [m for m in LifeMode if not (colour and m is LifeMode.ADD)]
        self._mode.set_choices([("steady", None), *((_mode_sentence(m), m) for m in modes)])
        self._mode.set_value(attribute.mode if attribute.life is not None else None)
        for tie in self.ties:
            tie.setChecked(self.tied)
            tie.setIcon(icon("link-simple", TEAL) if self.tied else icon("link-break"))
        for other in (self._dash, self._high, self._swatches[1]):
            other.setVisible(not self.tied)
        self._end = 0 if self.tied else self._end
        if isinstance(attribute, Tint):
            self._show_tint(attribute)
        else:
            self._show_numbers(name, attribute)

    @property
    def tied(self) -> bool:
        """Whether both ends at birth are one value, and stay so when either is edited."""
        shown = self._attribute
        one, two = (shown.first, shown.second) if isinstance(shown, Tint) else (shown.birth.low, shown.birth.high)
        return one == two and (self._whose, self._name) not in self._loose

    def _tie(self, on: bool) -> None:
        """Make both ends one value, or let them differ."""
        (self._loose.discard if on else self._loose.add)((self._whose, self._name))
        shown = self._attribute
        if on and isinstance(shown, Tint):
            self._change(True, second=shown.first)
        elif on and isinstance(shown, Attribute):
            self._change(True, birth=Range.of(round((shown.birth.low + shown.birth.high) / 2, 6)))
        self.show_attribute(self._name, self._attribute, self._whose)

    def _show_numbers(self, name: str, attribute: Attribute) -> None:
        unit = unit_of(name)
        self.more.show_attribute(name, attribute)
        for widget in (self._low, self._high, self._bar):
            widget.setEnabled(not attribute.choices)
        low, high = attribute.birth.low * unit.factor, attribute.birth.high * unit.factor
        for field, end, value in ((self._low, "low", low), (self._high, "high", high)):
            bounds = bounds_at(Range, end)
            field.set_measure(
                unit.name, unit.step, unit.decimals, bounds.low * unit.factor, bounds.high * unit.factor
            )
            field.set_value(round(value, 6))
        top = max(min(max(unit.scale_top, high * 1.5), unit.high), high)
        bottom = min(unit.low if unit.low >= 0 else -unit.scale_top, low * 1.5, 0.0)
        self._bar.set_range(low, high, bottom, top)
        if attribute.life is not None:
            self._curve.set_measure(*_measure_of(attribute, unit))
            self._curve.set_curve(attribute.life)

    def _show_tint(self, tint: Tint) -> None:
        self.beneath.set_value(round(tint.beneath * 100, 2))
        for k, colour in enumerate((tint.first, tint.second)):
            self._swatches[k].set_colour(colour, active=k == self._end)
        self._picker.set_colour((tint.first, tint.second)[self._end])
        if tint.life is not None:
            self._gradient.set_gradient(tint.life)

    # ---- edits ----------------------------------------------------------------------------------

    def _change(self, final: bool, **changes: object) -> None:
        self._attribute = self._attribute.evolve(**changes)
        self.edited.emit(self._attribute, final)

    def _bar_edited(self, low: float, high: float, final: bool) -> None:
        assert isinstance(self._attribute, Attribute)  # only shown for numbers
        unit = unit_of(self._name)
        low, high = (round(x / unit.factor, 5) for x in (low, high))
        if self.tied:
            low = high = low if low != self._attribute.birth.low else high
        self._change(final, birth=Range(low=low, high=max(low, high)))

    def _end_edited(self, end: str, field: NumberField, value: float, final: bool) -> None:
        """One end was edited; the other goes with it where they are tied, or gives way."""
        assert isinstance(self._attribute, Attribute)  # only shown for numbers
        factor, by, tied = unit_of(self._name).factor, field.changed_by, self.tied

        def ends_at(attribute: Attribute, shown: float) -> Attribute:
            value = round(shown / factor, 6)
            birth = Range.of(value) if tied else attribute.birth.with_end(end, value)
            return attribute.evolve(birth=birth)

        if by is not None:
            change = by  # a name of its own, which is no None
            self.each = lambda own: ends_at(own, field.within(change.of(getattr(own.birth, end) * factor)))
        self._change(final, birth=ends_at(self._attribute, value).birth)
        self.each = None

    def _mode_chosen(self, mode: object, _final: bool) -> None:
        if mode is None:
            self._earlier[self._name] = self._attribute
            self._change(True, life=None)
            return
        earlier = self._earlier.get(self._name)
        life = self._attribute.life
        if life is None and earlier is not None and earlier.mode is mode:
            life = earlier.life
        if life is None:
            white = Gradient.through((0, (1, 1, 1)), (1, (1, 1, 1)))
            life = white if isinstance(self._attribute, Tint) else self._first_curve(mode)
        elif isinstance(life, Curve) and isinstance(self._attribute, Attribute) and self._attribute.life is life:
            life = _same_drawn(self._attribute, mode)
        self._change(True, life=life, mode=mode)

    def _first_curve(self, mode: object) -> Curve:
        assert isinstance(self._attribute, Attribute)
        if mode is LifeMode.SCALE:
            return Curve.through((0, 1), (1, 0 if self._name in {"size", "opacity"} else 1))
        start = 0.0 if mode is LifeMode.ADD else self._attribute.birth.high
        return Curve.through((0, start), (1, start))

    def _swatch_clicked(self, end: int) -> None:
        self._end = end
        if isinstance(self._attribute, Tint):
            self._show_tint(self._attribute)

    def _colour_picked(self, colour: object, final: bool) -> None:
        ends = ("first", "second") if self.tied else (("first", "second")[self._end],)
        self._change(final, **dict.fromkeys(ends, colour))


def _tie_button() -> QPushButton:
    button = tool("link-simple", "One value at birth, not a range")
    button.setCheckable(True)
    return button


def _measure_of(attribute: Attribute, unit: AttributeUnit) -> tuple[str, float, float, int, tuple[float, float]]:
    """Return unit, factor, step, decimals and limits of a curve's values."""
    low, high = unit.low / unit.factor, unit.high / unit.factor
    if attribute.mode is LifeMode.SCALE:
        return "×", 1.0, 0.05, 3, (0.0 if low >= 0 else -1e3, 1e3)
    if attribute.mode is LifeMode.ADD:
        low, high = low - attribute.birth.high, high - attribute.birth.low
    return unit.name, unit.factor, unit.step, unit.decimals + 1, (low, high)


def _same_drawn(attribute: Attribute, mode: object) -> Curve:
    """Return the curve that draws the same under another way of meeting the middle of the value at birth."""
    assert attribute.life is not None  # the caller has looked
    middle = (attribute.birth.low + attribute.birth.high) / 2
    points = []
    for age, value in attribute.life.points:
        drawn = float(met(middle, value, attribute.code))
        if mode is LifeMode.SCALE:
            drawn = drawn / middle if middle else 1.0
        elif mode is LifeMode.ADD:
            drawn -= middle
        points.append((age, round(drawn, 6)))
    return Curve.through(*points)


def _mode_sentence(mode: LifeMode) -> str:
    return {
        LifeMode.SCALE: "× scale: birth times the curve",
        LifeMode.ADD: "+ add: birth plus the curve",
        LifeMode.REPLACE: "= replace: the curve alone",
    }[mode]
