"""Import an outline: a preview, the unit and layer it is in, and how thick the plate is.

The file is read off the interface thread; closing the dialog stops that.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from anakinema.authoring import (
    IMPORT_UNITS,
    Preview,
    imported,
    likely_unit,
    open_drawing,
    preview,
    sound,
)
from anakinema.drawings import Drawing
from anakinema.edits import made
from anakinema.errors import AnakinemaError
from anakinema.ui.fields import label, row
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.bodies import region_path
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Workbench
from anakinema.ui.worker import Worker

MOST_LAYERS = 200
"""Layers offered one by one."""


@guarded
class OutlinePicture(QWidget):
    """The outline as it would come in."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setMinimumSize(380, 260)
        self._theme = theme
        self.found: Preview | None = None

    def show_preview(self, found: Preview | None) -> None:
        """Show another outline, or none."""
        self.found = found
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self._theme.stage))
        if self.found is not None:
            path = region_path(self.found.region)
            box = path.boundingRect()
            scale = min((self.width() - 40) / box.width(), (self.height() - 40) / box.height())
            painter.translate(self.width() / 2, self.height() / 2)
            painter.scale(scale, -scale)
            painter.translate(-box.center())
            pen = QPen(QColor(self._theme.shade), 1.4)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.setBrush(QColor(self._theme.bodies["steel"]))
            painter.drawPath(path)


class ImportDialog(QDialog):
    """Nothing comes in before Import is pressed."""

    def __init__(self, workbench: Workbench, path: Path, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("import_dialog")
        self.setWindowTitle(f"Import {path.name}")
        self._workbench = workbench
        self._drawing: Drawing | None = None
        self.picture = OutlinePicture(theme)
        self._unit = QComboBox()
        self._unit.setObjectName("import_unit")
        for unit in IMPORT_UNITS:
            self._unit.addItem(unit)
        self._layer = QComboBox()
        self._layer.setObjectName("import_layer")
        self._layer.addItem("all layers", None)
        self._thickness = QLineEdit("6 mm")
        self._thickness.setObjectName("import_thickness")
        self._words = label("", wrap=True)
        self._words.setObjectName("import_words")
        self._import = QPushButton("Import")
        self._import.setObjectName("import_make")
        cancel = QPushButton("Cancel")
        layout = QVBoxLayout(self)
        layout.addWidget(self.picture, 1)
        for words, widget in (
            ("One unit of the file is one", self._unit),
            ("Layer", self._layer),
            ("Thickness", self._thickness),
        ):
            layout.addWidget(row(words, widget, width=150))
        layout.addWidget(self._words)
        ends = QHBoxLayout()
        ends.addStretch(1)
        ends.addWidget(self._import)
        ends.addWidget(cancel)
        layout.addLayout(ends)
        self._unit.currentIndexChanged.connect(lambda _: self._show())
        self._layer.currentIndexChanged.connect(lambda _: self._show())
        self._thickness.textChanged.connect(lambda _: self._show())
        self._import.clicked.connect(self._make)
        cancel.clicked.connect(self.reject)
        self._import.setDefault(True)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._import.setEnabled(False)
        self._words.setText(f"Reading {path.name}…")
        self._worker = Worker("import", self)
        self._worker.answered.connect(self._read)
        self._worker.broke.connect(lambda _, error: workbench.broke.emit(error))
        self._worker.broke.connect(lambda *_: self.reject())
        self.finished.connect(lambda _: self._worker.stop())

        def read() -> Iterator[object]:
            try:
                yield open_drawing(path)
            except AnakinemaError as error:
                yield error

        self._worker.request(read)

    def _read(self, _: int, answer: object) -> None:
        if isinstance(answer, AnakinemaError):
            self._workbench.report(answer)
            self.reject()
        elif isinstance(answer, Drawing):
            self._drawing = answer
            self._unit.setCurrentText(likely_unit(answer))
            for layer in answer.layers[:MOST_LAYERS]:
                self._layer.addItem(layer[:60], layer)
            self._show()

    def _show(self) -> None:
        drawing = self._drawing
        if drawing is None:
            return
        document, thickness = self._workbench.session.document, self._thickness.text()
        try:
            found = preview(drawing, self._unit.currentText(), self._layer.currentData())
            trial = made(lambda: imported(document, drawing, found, thickness), "thickness")
            # What was wrong before is no fault of the part that comes.
            trouble = sound(document, trial) if self._workbench.trouble is None else None
            if trouble is not None:
                raise trouble
        except AnakinemaError as error:
            self.picture.show_preview(None)
            self._words.setText(f"{error.what} {error.remedy}")
            self._import.setEnabled(False)
            return
        self.picture.show_preview(found)
        self._words.setText("\n".join(found.words))
        self._import.setEnabled(True)

    def _make(self) -> None:
        found = self.picture.found
        if found is None or self._drawing is None:
            return
        document = self._workbench.session.document
        self._workbench.do_once(imported(document, self._drawing, found, self._thickness.text()))
        self.accept()
