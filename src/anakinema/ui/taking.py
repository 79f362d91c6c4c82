"""Take a unit from another document: choose which, then it stands in the middle of the stage."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from anakinema.authoring import Lender, take_unit
from anakinema.errors import AnakinemaError
from anakinema.ui.fields import label
from anakinema.ui.stage.view import View
from anakinema.ui.workbench import Selection, Workbench

UNIT = Qt.ItemDataRole.UserRole


class TakeDialog(QDialog):
    """Nothing comes in before Take is pressed; what cannot come is stated here."""

    def __init__(self, workbench: Workbench, lender: Lender, view: View, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("take_dialog")
        self.setWindowTitle(f"Take from {lender.path.name}")
        self._workbench, self._lender, self._view = workbench, lender, view
        layout = QVBoxLayout(self)
        layout.setSpacing(8)
        layout.addWidget(
            label(
                "It comes as a copy that knows where it is from, and can be brought up to date.",
                "quiet",
                wrap=True,
            )
        )
        self._list = QListWidget()
        self._list.setObjectName("take_list")
        self._list.setAccessibleName("subassemblies to take")
        for unit, title in lender.offers:
            item = QListWidgetItem(title, self._list)
            item.setData(UNIT, unit)
        self._list.setCurrentRow(0)
        self._list.itemDoubleClicked.connect(lambda _: self._take())
        layout.addWidget(self._list)
        self._words = label("", wrap=True)
        self._words.setObjectName("take_words")
        layout.addWidget(self._words)
        ends = QHBoxLayout()
        ends.addStretch(1)
        take, cancel = QPushButton("Take"), QPushButton("Cancel")
        take.setObjectName("take_it")
        cancel.setObjectName("take_cancel")
        take.setDefault(True)
        take.clicked.connect(self._take)
        cancel.clicked.connect(self.reject)
        ends.addWidget(take)
        ends.addWidget(cancel)
        layout.addLayout(ends)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(360, 280)

    def _take(self) -> None:
        scene, item = self._workbench.drawn_scene(), self._list.currentItem()
        if scene is None or item is None:
            return
        try:
            edit, body = take_unit(
                scene, self._lender, str(item.data(UNIT)), self._view.x, self._view.y
            )
        except AnakinemaError as error:
            self._words.setText(f"{error.where}: {error.what} {error.remedy}")
            return
        self._workbench.do_once(edit)
        self._workbench.select(Selection("body", body))
        self.accept()
