"""Saving a picture or a numbered sequence of the show from the window."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QLineEdit, QProgressBar, QVBoxLayout, QWidget

from wraithon.desktop.engine.exporter import ExportWish
from wraithon.desktop.remembered import store_value, stored_value
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, labelled, soft
from wraithon.desktop.widgets.fields import ChoiceField, NumberField
from wraithon.interchange.pictures import MAX_PICTURES

if TYPE_CHECKING:
    from wraithon.project.project import View


LARGEST = 8192
ENDINGS = (".png", ".jpg", ".webp")


class ExportSheet(QDialog):
    """Asks what is written, shows how far it is, and closes when it is done.

    Signals
    -------
    wanted
        What is to be written.
    stopped
        The rest is not to be written.
    """

    wanted = Signal(object)
    stopped = Signal()

    def __init__(self, window: QWidget, view: View, now: float, period: float, name: str) -> None:
        super().__init__(window)
        self.setWindowTitle("Save pictures")
        self.setObjectName("panel")
        self.setMinimumWidth(480)
        self._view, self._now, self._running = view, now, False
        self.what = ChoiceField((("this moment", "moment"), ("a sequence", "sequence")), "What is written")
        self.start = NumberField("s", low=0, high=1e6, step=0.1, name="First moment")
        self.end = NumberField("s", low=0, high=1e6, step=0.1, name="Last moment")
        self.fps = NumberField("/s", low=0.1, high=1000, step=1, name="Pictures a second")
        self.across = NumberField("px", low=16, high=LARGEST, step=16, decimals=0, name="Width")
        self.down = NumberField("px", low=16, high=LARGEST, step=16, decimals=0, name="Height")
        for field, value in (
            (self.start, 0.0), (self.end, round(period, 3)), (self.fps, 30.0),
            (self.across, float(stored_value("export width", 1280))),
            (self.down, float(stored_value("export height", 720))),
        ):  # fmt: skip
            field.set_value(value)
            field.edited.connect(lambda _value, _final: self._show())
        self.path = QLineEdit()
        self.path.setAccessibleName("File that is written")
        self._folder = Path(str(stored_value("export folder", "")) or Path.home())
        self._name = name
        choose = Button(icon("folder-open"), "Choose ...")
        choose.clicked.connect(self._choose)
        self._says = soft("")
        self.bar = QProgressBar()
        self.bar.hide()
        self.write, self.leave = Button("Write"), Button("Close")
        self.write.setDefault(True)
        self.write.clicked.connect(self._begin)
        self.leave.clicked.connect(self.reject)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(8)
        self._span = labelled(
            "from", self.start, labelled("to", self.end, width=14), labelled("at", self.fps, width=14), width=60
        )
        for row in (
            labelled("write", self.what, width=60), self._span, labelled("size", self.across, self.down, width=60),
            labelled("file", self.path, choose, width=60), self._says, self.bar,
        ):  # fmt: skip
            column.addWidget(row)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(self.leave)
        buttons.addWidget(self.write)
        column.addLayout(buttons)
        self.what.edited.connect(lambda what, _final: self.choose_what(str(what)))
        self.path.textChanged.connect(self._show)
        self.choose_what("moment")

    def choose_what(self, what: str) -> None:
        """Write this moment, or a sequence."""
        self.what.set_value(what)
        self._span.setVisible(what == "sequence")
        mark = "_####" if what == "sequence" else ""
        self.path.setText(str(self._folder / f"{self._name}{mark}.png"))
        self._show()

    @property
    def wish(self) -> ExportWish:
        """What is to be written."""
        sequence = self.what.currentText() == "a sequence"
        span = (self.start.value, self.end.value) if sequence else (self._now, self._now)
        size = int(self.across.value), int(self.down.value)
        path = str(Path(self.path.text().strip()).expanduser())
        return ExportWish(path, *span, self.fps.value, size, self._view)

    def _wrong_with(self, wish: ExportWish) -> str:
        path = Path(wish.path)
        sequence = self.what.currentText() == "a sequence"
        if sequence and wish.end <= wish.start:
            return "The last moment must come after the first."
        if not 1 <= wish.count <= MAX_PICTURES:
            return f"{wish.count:,} pictures are too many: {MAX_PICTURES:,} at most."
        if path.suffix.lower() not in ENDINGS:
            return "Name the file .png, .jpg or .webp."
        if sequence and "#" not in path.name:
            return "Put #### into the name, where the number goes."
        if not path.is_absolute() or not path.parent.is_dir():
            return f"There is no folder {path.parent}: choose one."
        return ""

    def _show(self) -> None:
        wish = self.wish
        wrong = self._wrong_with(wish)
        self.write.setEnabled(not wrong and not self._running)
        there = wish.count == 1 and Path(wish.path).exists()
        count = "1 picture" if wish.count == 1 else f"{wish.count:,} pictures"
        replacing = ", replacing a file" if there else ""
        self._says.setText(wrong or f"{count} of {wish.size[0]} × {wish.size[1]}{replacing}")

    def _choose(self) -> None:
        path, _ = QFileDialog.getSaveFileName(
            self, "Write pictures to", self.path.text(), "Pictures (*.png *.jpg *.webp)"
        )
        if path:
            self.path.setText(path)

    def _begin(self) -> None:
        wish = self.wish
        store_value("export width", wish.size[0])
        store_value("export height", wish.size[1])
        store_value("export folder", str(Path(wish.path).parent))
        self._running = True
        self.write.setEnabled(False)
        self.leave.setText("Cancel")
        self.bar.setRange(0, wish.count)
        self.bar.setValue(0)
        self.bar.show()
        self.wanted.emit(wish)

    def show_progress(self, done: int, count: int) -> None:
        """Show how many of how many are written."""
        self.bar.setRange(0, count)
        self.bar.setValue(done)
        self._says.setText(f"{done:,} of {count:,} written")

    def finish(self, text: str, well: bool) -> None:
        """Close where all was written; else say why not, and let it be tried again."""
        if not self._running:
            return
        self._running = False
        if well:
            self.accept()
            return
        self.bar.hide()
        self.leave.setText("Close")
        self._show()
        self._says.setText(text)

    def reject(self) -> None:
        """Leave the rest while pictures are being written; else close."""
        if self._running:
            self.stopped.emit()
        else:
            super().reject()
