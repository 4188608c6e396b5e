"""Where a project is saved for the first time: its name and a place; its folder is made."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QStandardPaths
from PySide6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from wraithon.desktop.remembered import store_value, stored_value
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, labelled, soft
from wraithon.project.files import PROJECT_FILE
from wraithon.support.plain_files import file_name


class SaveSheet(QDialog):
    """Asks for a name and a place, and shows the folder that comes of them."""

    def __init__(self, window: QWidget, name: str, place: Path | None) -> None:
        super().__init__(window)
        self.setWindowTitle("Save the project")
        self.setObjectName("panel")
        self.setMinimumWidth(460)
        self.name, self.place = QLineEdit(name), QLineEdit(str(place or _usual_place()))
        self.name.setAccessibleName("Name of the project")
        self.place.setAccessibleName("Folder in which the project's folder is made")
        self._folder = soft("")
        choose = Button(icon("folder-open"), "Choose ...")
        choose.clicked.connect(self._choose)
        self.save = Button("Save")
        self.save.setDefault(True)
        cancel = Button("Cancel")
        self.save.clicked.connect(self.accept)
        cancel.clicked.connect(self.reject)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(8)
        column.addWidget(labelled("name", self.name, width=60))
        column.addWidget(labelled("place", self.place, choose, width=60))
        column.addWidget(self._folder)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(cancel)
        buttons.addWidget(self.save)
        column.addLayout(buttons)
        self.name.textChanged.connect(self._show)
        self.place.textChanged.connect(self._show)
        self._show()
        self.name.selectAll()
        self.name.setFocus()

    @property
    def folder(self) -> Path:
        """The project's own folder."""
        return Path(self.place.text().strip()).expanduser() / self._called

    @property
    def _called(self) -> str:
        """What the folder is called: the name without what no folder may have."""
        return file_name(self.name.text().replace("/", " ")).strip(" .")

    def _wrong_with(self) -> str:
        if not self._called:
            return "Type a name with letters or digits."
        place = Path(self.place.text().strip()).expanduser()
        if not place.is_absolute():
            return "Type the whole path of the place, or choose it."
        if place.exists() and not place.is_dir():
            return f"{place} is a file: choose a folder."
        return ""

    def _show(self) -> None:
        wrong = self._wrong_with()
        self.save.setEnabled(not wrong)
        there = not wrong and (self.folder / PROJECT_FILE).exists()
        self._folder.setText(wrong or f"Saved in {self.folder}{', which holds a project already' if there else ''}")

    def _choose(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Where the project's folder is made", self.place.text())
        if folder:
            self.place.setText(folder)

    def accept(self) -> None:
        """Remember the place, and close."""
        store_value("place", self.place.text().strip())
        super().accept()


def _usual_place() -> Path:
    """Return where the last project was saved, else a folder among the user's documents."""
    known = str(stored_value("place", ""))
    documents = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation)
    return Path(known) if known else Path(documents) / "Wraithon"
