"""The motion program in the Drive drawer: drivers, stages, who moves in each and at what pace."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from anakinema.authoring import pasted_program
from anakinema.document import model
from anakinema.edits import (
    AddMove,
    AddStage,
    Edit,
    RemoveMove,
    RemoveStage,
    SetDriver,
    SetProgramOption,
    SetStage,
    SetStageTarget,
)
from anakinema.errors import AnakinemaError
from anakinema.expressions import completed
from anakinema.ui.fields import label, live_field, row, source_text
from anakinema.ui.inspector.form import Form
from anakinema.ui.workbench import Workbench
from anakinema.units import UnitSystem

LAWS = {
    "constant": "constant velocity",
    "parabolic": "constant acceleration",
    "harmonic": "harmonic",
    "cycloidal": "cycloidal",
    "modified_trapezoid": "modified trapezoid",
    "modified_sine": "modified sine",
    "polynomial_345": "3-4-5",
    "polynomial_4567": "4-5-6-7",
}
WIDE, NARROW = 160, 64
"""px of the box of laws and of the two fields of a time."""


def _seconds(text: str) -> str:
    """A time as typed; a bare number is seconds."""
    return completed(text.strip(), "1 s", UnitSystem())


class ProgramPanel(QWidget):
    """Built anew when drivers, stages or moves come or go; otherwise its values are shown."""

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
        shape = (
            tuple((d.id, d.title) for d in program.drivers),
            tuple((tuple(m.driver for m in s.moves), s.step is None) for s in program.stages),
        )
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
        for driver in program.drivers:
            self._add_driver(form, driver.id, driver.title)
        for k in range(len(program.stages)):
            self._add_stage(form, k)
        if program.stages:
            form.buttons(("stage_add", "Add a stage", lambda: form.once(AddStage())))
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
        self._workbench.do(edit)
        self._workbench.finish_gesture()

    def _getter(self, option: str) -> Callable[[], bool]:
        return lambda: bool(getattr(self._program(), option))

    def _add_driver(self, form: Form, name: str, title: str) -> None:
        for which, words in (("start", f"{title} starts at"), ("rate", f"{title} rate")):

            def source(w: str = which) -> str:
                return source_text(getattr(model.next_by_id(self._program().drivers, name), w))

            def edit(text: str, w: str = which) -> Edit:
                return SetDriver(name, w, text)

            form.quantity(words, f"{which}_{name}", source, edit)

    def _add_stage(self, form: Form, k: int) -> None:
        program = self._program()
        stage, titles = program.stages[k], {d.id: d.title for d in program.drivers}
        form.section(f"Stage {k + 1}")
        for move in stage.moves:

            def target(driver: str = move.driver) -> str:
                moves = self._program().stages[k].moves
                return source_text(next(m.to for m in moves if m.driver == driver))

            def retarget(text: str, driver: str = move.driver) -> Edit:
                return SetStageTarget(k, driver, text)

            form.quantity(
                f"{titles[move.driver]} to", f"target_{k}_{move.driver}", target, retarget
            )
        if stage.step is not None:
            form.quantity(
                "step",
                f"step_{k}",
                lambda: source_text(self._program().stages[k].step),
                lambda text: SetStage(k, "step", text),
            )
        form.choice(
            "law",
            f"law_{k}",
            list(LAWS.items()),
            lambda: self._program().stages[k].law,
            lambda law: SetStage(k, "law", law),
            width=WIDE,
        )
        form.layout.addWidget(row("lasts, then waits", self._times(form, k), width=2 * NARROW + 4))
        self._add_buttons(form, k, titles)

    def _times(self, form: Form, k: int) -> QWidget:
        """What a stage lasts, and the pause at its end, side by side."""
        bench = self._workbench
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        for which, empty in (("lasts", None), ("pause", "0 s")):

            def change(text: str, w: str = which, none: str | None = empty) -> bool:
                return bench.do(SetStage(k, w, _seconds(text) or none))

            field = live_field(
                "", f"{which}_{k}", change, bench.finish_gesture, bench.cancel_gesture
            )
            field.setFixedWidth(NARROW)
            field.setPlaceholderText("rate" if empty is None else "")

            def show(field=field, w: str = which, none: str | None = empty) -> None:  # type: ignore[no-untyped-def]
                stages = self._program().stages
                if k < len(stages):
                    field.show_source(source_text(getattr(stages[k], w) or none))

            form.on_refresh(show)
            line.addWidget(field)
        return holder

    def _add_buttons(self, form: Form, k: int, titles: dict[str, str]) -> None:
        program = self._program()
        moving = [move.driver for move in program.stages[k].moves]
        entries: list[tuple[str, str, Edit]] = []
        for driver, title in titles.items():
            if driver not in moving:
                entries.append((f"move_add_{k}_{driver}", f"With {title}", AddMove(k, driver)))
            elif len(moving) > 1:
                entries.append(
                    (f"move_drop_{k}_{driver}", f"Without {title}", RemoveMove(k, driver))
                )
        if len(program.stages) > 1:
            entries.append((f"stage_remove_{k}", "Remove stage", RemoveStage(k)))
        form.buttons(*((name, words, lambda e=edit: form.once(e)) for name, words, edit in entries))
