"""Import an outline: a preview, the unit and layer it is in, and how thick the plate is."""

from __future__ import annotations

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

from anakinema.errors import AnakinemaError
from anakinema.expressions import parse
from anakinema.session import IMPORT_UNITS, Drawing, Preview, imported, likely_unit, preview
from anakinema.ui.fields import label, row
from anakinema.ui.stage.bodies import region_path
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Workbench


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
        painter = QPainter(self)
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
        painter.end()


class ImportDialog(QDialog):
    """Nothing comes in before Import is pressed."""

    def __init__(
        self, workbench: Workbench, drawing: Drawing, theme: Theme, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.setObjectName("import_dialog")
        self.setWindowTitle(f"Import {drawing.name}")
        self._workbench, self._drawing = workbench, drawing
        self.picture = OutlinePicture(theme)
        self._unit = QComboBox()
        self._unit.setObjectName("import_unit")
        for unit in IMPORT_UNITS:
            self._unit.addItem(unit)
        self._unit.setCurrentText(likely_unit(drawing))
        self._layer = QComboBox()
        self._layer.setObjectName("import_layer")
        self._layer.addItem("all layers", None)
        for layer in drawing.layers:
            self._layer.addItem(layer, layer)
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
            ("One unit of the file is one", self._unit), ("Layer", self._layer),
            ("Thickness", self._thickness),
        ):  # fmt: skip
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
        self._show()

    def _show(self) -> None:
        try:
            parse(self._thickness.text())
            found = preview(self._drawing, self._unit.currentText(), self._layer.currentData())
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
        if found is None:
            return
        document = self._workbench.session.document
        self._workbench.do(imported(document, self._drawing, found, self._thickness.text()))
        self._workbench.finish_gesture()
        self.accept()
