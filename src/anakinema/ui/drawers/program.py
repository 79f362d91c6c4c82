"""The motion program in the Drive drawer: drivers, what holds for all of it, and a table."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QPlainTextEdit, QVBoxLayout, QWidget

from anakinema.authoring import pasted_program
from anakinema.document import model
from anakinema.edits import AddStage, Edit, SetDriver, SetProgramOption
from anakinema.errors import AnakinemaError
from anakinema.ui.fields import label, source_text
from anakinema.ui.inspector.form import Form
from anakinema.ui.workbench import Selection, Workbench

LINES = 3
"""Of words about how far a driver reaches."""


class ProgramPanel(QWidget):
    """Built anew when drivers come or go; otherwise its values are shown."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self._workbench = workbench
        self._shape: object = None
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(14, 0, 8, 0)
        self._body = QWidget()
        self._layout.addWidget(self._body)
        self._reach = label("", "quiet", wrap=True)
        self._reach.setObjectName("reach")
        self._layout.addWidget(self._reach)
        self._form: Form | None = None
        workbench.document_changed.connect(self._show)
        self._show()

    def show_reach(self, words: str) -> None:
        """How far the drivers can go from here."""
        self._reach.setText(words)

    def _program(self) -> model.Program:
        return self._workbench.session.document.program

    def _show(self) -> None:
        program = self._program()
        shape = tuple((d.id, d.title) for d in program.drivers), bool(program.stages)
        if shape != self._shape:
            self._shape = shape
            self._build()
        if self._form is not None:
            self._form.refresh()

    def _build(self) -> None:
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        layout.addWidget(label("Motion program", "section"))
        form = self._form = Form(self._workbench, layout)
        program = self._program()
        # Room for what is said of each, so that nothing below moves when it is known.
        lines = LINES * len(program.drivers)
        self._reach.setMinimumHeight(lines * self._reach.fontMetrics().lineSpacing())
        for driver in program.drivers:
            self._add_driver(form, driver.id, driver.title)
        if program.stages:
            form.quiet("Stages stand on the strip: drag the end of one, or click it.")
            form.buttons(("stage_add", "Add a stage", self._add_stage))
        if not program.drivers:
            form.quiet("No driver yet: click a joint, then Drive.")
        for option, words in (
            ("there_and_back", "There and back"),
            ("past_limits", "Run past limits"),
        ):

            def switched(on: bool, name: str = option) -> Edit:
                return SetProgramOption(name, on)

            form.check(words, option, self._getter(option), switched)
        if program.drivers:
            self._add_table(form)
        self._layout.replaceWidget(self._body, body)
        self._body.hide()
        self._body.deleteLater()
        self._body = body

    def _add_stage(self) -> None:
        """One more stage, selected so that it can be changed."""
        self._workbench.do_once(AddStage())
        self._workbench.select(Selection("stage", str(len(self._program().stages) - 1)))

    def _add_table(self, form: Form) -> None:
        table = QPlainTextEdit()
        table.setObjectName("program_table")
        table.setAccessibleName("times and values")
        table.setPlaceholderText("or paste columns: seconds, then a value a driver")
        table.setTabChangesFocus(True)
        table.setFixedHeight(52)
        form.layout.addWidget(table)
        form.buttons(("program_paste", "Take the table", lambda: self._paste(table.toPlainText())))

    def _paste(self, text: str) -> None:
        """Move the drivers by a table; a faulty line is named."""
        try:
            edit = pasted_program(self._workbench.session.document, text)
        except AnakinemaError as error:
            self._workbench.report(error)
            return
        self._workbench.do_once(edit)

    def _getter(self, option: str) -> Callable[[], bool]:
        return lambda: bool(getattr(self._program(), option))

    def _add_driver(self, form: Form, name: str, title: str) -> None:
        for which, words in (("start", f"{title} starts at"), ("rate", f"{title} rate")):

            def source(w: str = which) -> str:
                return source_text(getattr(model.next_by_id(self._program().drivers, name), w))

            def edit(text: str, w: str = which) -> Edit:
                return SetDriver(name, w, text)

            form.quantity(words, f"{which}_{name}", source, edit)
