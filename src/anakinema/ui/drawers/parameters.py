"""The parameters table: named sizes with expressions, added, changed and taken out."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from anakinema.document import model
from anakinema.edits import AddParameter, RemoveParameter, SetParameter, fresh_id
from anakinema.ui.fields import NUMBER, QuantityField, clear, label, live_field, source_text
from anakinema.ui.workbench import Workbench


class ParameterTable(QWidget):
    """A row a parameter: name, expression, a button that takes it out; below one to add."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._fields: dict[str, QuantityField] = {}
        self._shown: tuple[str, ...] | None = None
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        self._name = QLineEdit()
        self._name.setObjectName("parameter_name")
        self._name.setPlaceholderText("name")
        self._value = QLineEdit()
        self._value.setObjectName("parameter_value")
        self._value.setPlaceholderText("40 mm")
        add = QPushButton("Add")
        add.setObjectName("parameter_add")
        line = QHBoxLayout()
        line.setSpacing(4)
        line.addWidget(self._name, 2)
        line.addWidget(self._value, 2)
        line.addWidget(add)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(
            label("Sizes by name, for use in any field: 3*throw + 2 mm", "quiet", wrap=True)
        )
        layout.addLayout(self._rows)
        layout.addLayout(line)
        layout.addStretch(1)
        add.clicked.connect(self._add)
        self._value.returnPressed.connect(self._add)
        workbench.document_changed.connect(self._show)
        self._show()

    def _add(self) -> None:
        document = self._workbench.session.document
        wanted = self._name.text().strip()
        if not wanted or not self._value.text().strip():
            return
        taken = [p.id for p in document.parameters]
        name = fresh_id(wanted, taken)
        try:
            parameter = model.Parameter(id=name, value=self._value.text().strip())
        except ValueError as error:
            self._value.setToolTip(str(error))
            self._value.setProperty("wrong", True)
            self._value.style().polish(self._value)
            return
        self._value.setProperty("wrong", False)
        self._value.style().polish(self._value)
        self._workbench.do_once(AddParameter(parameter))
        self._name.clear()
        self._value.clear()
        self._name.setFocus()

    def _show(self) -> None:
        document = self._workbench.session.document
        ids = tuple(p.id for p in document.parameters)
        if ids != self._shown:
            self._shown = ids
            self._build(ids)
        for parameter in document.parameters:
            self._fields[parameter.id].show_source(source_text(parameter.value))

    def _build(self, ids: tuple[str, ...]) -> None:
        clear(self._rows)
        self._fields = {}
        bench = self._workbench
        for name in ids:
            holder = QWidget()
            line = QHBoxLayout(holder)
            line.setContentsMargins(0, 0, 0, 0)
            line.setSpacing(4)
            field = live_field(
                "",
                f"size_{name}",
                partial(lambda n, text: bench.do(SetParameter(n, text)), name),
                bench.finish_gesture,
                bench.cancel_gesture,
            )
            field.setProperty(NUMBER, f".{name}")
            self._fields[name] = field
            drop = QPushButton("×")
            drop.setObjectName(f"drop_{name}")
            drop.setAccessibleName(f"delete {name}")
            drop.setProperty("flat", True)
            drop.setFixedWidth(24)
            drop.clicked.connect(lambda _=False, n=name: self._drop(n))
            line.addWidget(label(name.replace("_", " ")), 2)
            line.addWidget(field, 2)
            line.addWidget(drop, 0, Qt.AlignmentFlag.AlignRight)
            self._rows.addWidget(holder)

    def _drop(self, name: str) -> None:
        self._workbench.do_once(RemoveParameter(name))
