"""The actions of a response on a small lane of time: a bar each, which is dragged to come sooner or later."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from wraithon.desktop.theme.colours import GROUND, INK, LINE, RAISED, RUST, SOFT, TEAL
from wraithon.desktop.theme.theme import figures_font, text_font
from wraithon.desktop.widgets.basics import OwnKeys, ShowsFocus
from wraithon.project.staging.actions import EffectAction, PlayClip, StopEffect, WaitFor
from wraithon.studio.sentence import action_label

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.staging.actions import Action
    from wraithon.project.trigger import Trigger


ROW, RULER = 16, 16
SHORT = 0.12
"""Seconds that the bar of what is over at once is long."""
GRID = 0.05
"""Seconds that a drag goes by; Ctrl frees it."""
MIN_SPAN = 1.0


class ActionLane(OwnKeys, ShowsFocus, QWidget):
    """Bars of actions over the seconds after the moment; those below a wait are counted from its end."""

    own_keys = frozenset({Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down})

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._trigger: Trigger | None = None
        self.chosen = -1
        """Which action is at hand."""
        self._grabbed: tuple[float, float] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Actions of the response over time")
        self.setToolTip("Drag a bar to change the time of its action; Ctrl ignores the grid")

    def show_trigger(self, trigger: Trigger) -> None:
        """Show the actions of a trigger's response."""
        if self._trigger is None or trigger.id != self._trigger.id:
            self.chosen = -1
        self._trigger = trigger
        self.setVisible(bool(trigger.response))
        self.setFixedHeight(RULER + ROW * len(trigger.response) + 4)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(300, RULER + ROW * 3)

    def spans(self) -> list[tuple[float, float]]:
        """Return when each action begins and ends, in seconds after the moment, as far as that is known."""
        found, base = [], 0.0
        for action in self._trigger.response if self._trigger else ():
            start = base + action.after
            found.append((start, start + self._lasts(action)))
            if isinstance(action, WaitFor):
                base = found[-1][1]
                if not action.signal:
                    played = [end for (_, end), each in zip(found, self._actions(), strict=False)
                              if isinstance(each, PlayClip)]  # fmt: skip
                    base = max([base, *played])
        return found

    def _actions(self) -> tuple[Action, ...]:
        return self._trigger.response if self._trigger else ()

    def _lasts(self, action: Action) -> float:
        """Return how many seconds what an action does lasts, for its bar."""
        if isinstance(action, EffectAction) and not isinstance(action, StopEffect):
            effect = self._session.project.effect(action.effect)
            return min(effect.length, 5.0) if effect and effect.length else 1.0
        if isinstance(action, PlayClip):
            character = self._session.character
            clip = character.clip(action.clip) if character else None
            return max(SHORT, clip.seconds) if clip else SHORT
        return max(SHORT, float(getattr(action, "seconds", SHORT)))

    def _span(self) -> float:
        return max([MIN_SPAN, *(end for _, end in self.spans())]) * 1.05

    def _x(self, time: float) -> float:
        return 4 + time / self._span() * (self.width() - 8)

    def box(self, number: int) -> QRectF:
        """Return where the bar of an action is."""
        start, end = self.spans()[number]
        left = self._x(start)
        return QRectF(left, RULER + number * ROW, max(6.0, self._x(end) - left), ROW - 2)

    # ---- hands ----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = int((event.position().y() - RULER) // ROW)
        if event.button() == Qt.MouseButton.LeftButton and 0 <= number < len(self._actions()):
            self.chosen = number
            self._grabbed = (event.position().x(), self._actions()[number].after)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grabbed is not None:
            x, after = self._grabbed
            by = (event.position().x() - x) / max(1, self.width() - 8) * self._span()
            free = event.modifiers() & Qt.KeyboardModifier.ControlModifier
            self._put(after + by, 0.001 if free else GRID, final=False)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._grabbed is not None:
            self._grabbed = None
            self._session.history.seal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = Qt.Key
        if event.key() in {keys.Key_Up, keys.Key_Down} and self._actions():
            by = 1 if event.key() == keys.Key_Down else -1
            self.chosen = min(max(self.chosen + by, 0), len(self._actions()) - 1)
            self.update()
        elif event.key() in {keys.Key_Left, keys.Key_Right} and 0 <= self.chosen < len(self._actions()):
            later = GRID if event.key() == keys.Key_Right else -GRID
            self._put(self._actions()[self.chosen].after + later, GRID, final=True)
        else:
            super().keyPressEvent(event)

    def _put(self, after: float, grid: float, *, final: bool) -> None:
        trigger = self._trigger
        if trigger is not None:
            value = max(0.0, round(round(after / grid) * grid, 4))
            self._session.set_value(
                "trigger", trigger.id, f"response.{self.chosen}.after", value, "Move action", final=final
            )

    # ---- looks ----------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(TEAL if self.hasFocus() else LINE), 1))
            painter.setBrush(QColor(GROUND))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
            span = self._span()
            grid = next((s for s in (0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0) if span / s <= 8), span)
            painter.setFont(figures_font(9))
            for k in range(int(span / grid) + 1):
                x = self._x(k * grid)
                painter.setPen(QPen(QColor(LINE), 1))
                painter.drawLine(QPointF(x, RULER - 4), QPointF(x, self.height() - 3))
                painter.setPen(QColor(SOFT))
                painter.drawText(QPointF(x + 2, 11), f"{k * grid:g} s")
            painter.setFont(text_font(10))
            for number, action in enumerate(self._actions()):
                box = self.box(number)
                painter.setPen(QPen(QColor(RUST if number == self.chosen else TEAL), 1))
                painter.setBrush(QColor("#5a3324" if number == self.chosen else RAISED))
                painter.drawRoundedRect(box, 3, 3)
                text = action_label(self._session.project, action)
                painter.setPen(QColor(INK))
                width = painter.fontMetrics().horizontalAdvance(text)
                beside = QRectF(box.right() + 4, box.top(), self.width() - box.right() - 8, box.height())
                before = QRectF(4, box.top(), box.left() - 8, box.height())
                inside, right = box.adjusted(4, 0, -2, 0), Qt.AlignmentFlag.AlignRight
                middle = Qt.AlignmentFlag.AlignVCenter
                if width <= inside.width() or (beside.width() < width and before.width() < width):
                    painter.drawText(inside, middle, text)
                elif beside.width() >= width:
                    painter.drawText(beside, middle, text)
                else:
                    painter.drawText(before, middle | right, text)
