"""The parts list as a table: sorted, filtered, and edited in place."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    QSortFilterProxyModel,
    Qt,
    Signal,
)
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from anakinema.edits import Edit, SetPart, SetSubassembly
from anakinema.parts import MATERIALS, material_named
from anakinema.record import Row, centre_of_mass, total_mass, whole_list
from anakinema.ui.fields import label
from anakinema.ui.guarded import guarded
from anakinema.ui.workbench import Workbench
from anakinema.units import LENGTH

Index = QModelIndex | QPersistentModelIndex
COLUMNS = (
    ("Item", 52),
    ("Name", 190),
    ("Quantity", 72),
    ("Made or bought", 116),
    ("Material", 104),
    ("Thickness", 92),
    ("Mass of one", 96),
    ("Mass of all", 96),
    ("Note", 160),
)
ITEM, NAME, QUANTITY, SUPPLY, MATERIAL, THICKNESS, MASS, ALL, NOTE = range(len(COLUMNS))
FIELDS = {NAME: "name", SUPPLY: "supply", NOTE: "note"}
"""Columns that are a field of a part, word for word."""
CHOICES = {SUPPLY: ("made", "bought"), MATERIAL: ("", *MATERIALS)}
MOST_ITEM = 9999


def mass_words(mass: float | None) -> str:
    """'1.25 kg', '340 g'; '' where it is not known."""
    if mass is None:
        return ""
    return f"{mass:.2f} kg" if mass >= 1.0 else f"{mass * 1000:.1f} g"


class PartsModel(QAbstractTableModel):
    """Rows of the list; what is edited becomes an edit of the document."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._bench = workbench
        self.rows: tuple[Row, ...] = ()
        self.expanded = True

    def show(self) -> None:
        """The list of the scene as it is now."""
        scene = self._bench.scene
        rows = () if scene is None else whole_list(scene.resolved, expanded=self.expanded)
        if len(rows) != len(self.rows):
            self.beginResetModel()
            self.rows = rows
            self.endResetModel()
        elif rows != self.rows:
            # The cell that is being edited stays.
            self.rows = rows
            self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(COLUMNS) - 1))

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and way is Qt.Orientation.Horizontal:
            return COLUMNS[section][0]
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row, column = self.rows[index.row()], index.column()
        values = (
            row.item,
            row.title,
            row.quantity,
            row.supply,
            row.material,
            row.thickness,
            row.mass,
            row.mass_of_all,
            row.note,
        )
        value = values[column]
        if role == Qt.ItemDataRole.UserRole:
            # What is not known sorts before all that is.
            return -1.0 if value is None else value
        if role == Qt.ItemDataRole.ToolTipRole and column in (MASS, ALL) and value is None:
            return "Not known while a material is not stated."
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return None
        if column == THICKNESS and self._bench.scene is not None:
            return self._bench.scene.resolved.units.format(row.thickness, LENGTH)
        if column == MATERIAL and role == Qt.ItemDataRole.DisplayRole and not value:
            return "not stated"
        if column in (ITEM, QUANTITY):
            return str(value)
        return mass_words(value) if column in (MASS, ALL) else value  # type: ignore[arg-type]

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsEnabled
        if self.rows[index.row()].is_rod:
            # Its numbers are those of the joint that it is.
            return flags
        whole = self.rows[index.row()].is_subassembly
        editable = (NAME, NOTE) if whole else (ITEM, NAME, SUPPLY, MATERIAL, NOTE)
        return flags | Qt.ItemFlag.ItemIsEditable if index.column() in editable else flags

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        row = self.rows[index.row()]
        if role != Qt.ItemDataRole.EditRole or str(value) == str(self.data(index)):
            return False
        edit = self._edit(row, index.column(), str(value).strip())
        return edit is not None and self._bench.do_once(edit)

    def _edit(self, row: Row, column: int, text: str) -> Edit | None:
        if row.is_subassembly:
            return SetSubassembly(row.id, FIELDS[column], text)
        if column == MATERIAL:
            return SetPart(row.id, "material", material_named(text))
        if column != ITEM:
            return SetPart(row.id, FIELDS[column], text)
        taken = {each.item: each.title for each in self.rows if each.id != row.id}
        if not text.isdecimal() or not 1 <= int(text) <= MOST_ITEM:
            self._bench.report(f"An item number is a whole number from 1 to {MOST_ITEM}.")
        elif int(text) in taken:
            self._bench.report(
                f"Item {text} is {taken[int(text)]}: give that another number first."
            )
        else:
            return SetPart(row.id, "item_number", int(text))
        return None


class _Chooser(QStyledItemDelegate):
    """A list to choose from where there are few values."""

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        words = CHOICES.get(index.column())
        if words is None:
            return super().createEditor(parent, option, index)
        box = QComboBox(parent)
        box.addItems([each or "not stated" for each in words])
        box.activated.connect(lambda _: self.commitData.emit(box))
        return box

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        if isinstance(editor, QComboBox):
            editor.setCurrentText(str(index.data()))
        else:
            super().setEditorData(editor, index)

    def setModelData(self, editor: QWidget, model: Any, index: Index) -> None:
        if isinstance(editor, QComboBox):
            words = editor.currentText()
            model.setData(index, "" if words == "not stated" else words)
        else:
            super().setModelData(editor, model, index)


@guarded
class PartsTable(QWidget):
    """The page of the parts list."""

    done = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("parts_page")
        self._bench = workbench
        self.model = PartsModel(workbench)
        self._sorted = QSortFilterProxyModel(self)
        self._sorted.setSourceModel(self.model)
        self._sorted.setSortRole(Qt.ItemDataRole.UserRole)
        self._sorted.setFilterKeyColumn(-1)
        self._sorted.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.table = QTableView()
        self.table.setObjectName("parts_table")
        self.table.setAccessibleName("parts list")
        self.table.setModel(self._sorted)
        self.table.setItemDelegate(_Chooser(self.table))
        self.table.setSortingEnabled(True)
        self.table.sortByColumn(ITEM, Qt.SortOrder.AscendingOrder)
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        head = self.table.horizontalHeader()
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for column, (_, width) in enumerate(COLUMNS):
            self.table.setColumnWidth(column, width)
        head.setSectionResizeMode(NOTE, QHeaderView.ResizeMode.Stretch)
        search = QLineEdit()
        search.setObjectName("parts_filter")
        search.setAccessibleName("show only what has these words")
        search.setPlaceholderText("Only what has these words")
        search.setFixedWidth(260)
        search.textChanged.connect(self._sorted.setFilterFixedString)
        folded = QCheckBox("subassemblies in one piece")
        folded.setObjectName("parts_folded")
        folded.toggled.connect(self._fold)
        back = QPushButton("Back to the stage")
        back.setObjectName("parts_back")
        back.clicked.connect(self.done)
        above = QHBoxLayout()
        for widget in (search, folded):
            above.addWidget(widget)
        above.addStretch(1)
        above.addWidget(back)
        self._total = label("", "plain", wrap=True)
        self._total.setObjectName("parts_total")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.addLayout(above)
        layout.addWidget(self.table, 1)
        layout.addWidget(self._total)
        workbench.scene_changed.connect(self.show_list)

    def _fold(self, on: bool) -> None:
        self.model.expanded = not on
        self.show_list()

    def show_list(self) -> None:
        """The list and what it comes to, if it is on show."""
        if not self.isVisible():
            return
        self.model.show()
        mass, missing = total_mass(self.model.rows)
        pieces = sum(row.quantity for row in self.model.rows)
        words = f"{len(self.model.rows)} items, {pieces} pieces"
        if len(missing) < len(self.model.rows):
            words += f", {mass_words(mass)}"
        if missing:
            names = ", ".join(missing[:6]) + (" and others" if len(missing) > 6 else "")
            words += f"; no material is stated for {names}"
        self._total.setText(f"{words}.{self._centre_words()}")

    def _centre_words(self) -> str:
        """How far the centre of mass of what moves goes."""
        evaluation = self._bench.evaluation
        if evaluation is None:
            return ""
        path = centre_of_mass(evaluation.resolved, evaluation.motion.poses)
        if path is None:
            return ""
        units = evaluation.resolved.units
        across, up = (units.format(float(np.ptp(path[:, k])), LENGTH) for k in (0, 1))
        return f" The centre of mass of what moves goes {across} across and {up} up (Shift+E)."

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.show_list()
