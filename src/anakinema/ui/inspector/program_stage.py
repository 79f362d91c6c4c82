"""The inspector's form of a stage of the program."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from anakinema.document import model
from anakinema.edits import AddMove, Edit, RemoveMove, RemoveStage, SetStage, SetStageTarget
from anakinema.expressions import completed
from anakinema.ui.fields import live_field, row, source_text
from anakinema.ui.inspector.form import Form
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
NARROW = 64
LAW = 160
"""px of the two fields of a time."""


def _seconds(text: str) -> str:
    """A time as typed; a bare number is seconds."""
    return completed(text.strip(), "1 s", UnitSystem())


def _program(form: Form) -> model.Program:
    return form.workbench.session.document.program


def build_stage(form: Form, index: str) -> None:
    """Where a stage's drivers go, by which law, how long it takes and how long it waits."""
    k, program = int(index), _program(form)
    stage, titles = program.stages[k], {d.id: d.title for d in program.drivers}
    form.heading(f"Stage {k + 1}", f"of {len(program.stages)}")
    for move in stage.moves:

        def target(driver: str = move.driver) -> str:
            moves = _program(form).stages[k].moves
            return source_text(next(m.to for m in moves if m.driver == driver))

        def retarget(text: str, driver: str = move.driver) -> Edit:
            return SetStageTarget(k, driver, text)

        form.quantity(f"{titles[move.driver]} to", f"target_{k}_{move.driver}", target, retarget)
    if stage.step is not None:
        form.quantity(
            "step",
            f"step_{k}",
            lambda: source_text(_program(form).stages[k].step),
            lambda text: SetStage(k, "step", text),
        )
    form.choice(
        "law",
        f"law_{k}",
        list(LAWS.items()),
        lambda: _program(form).stages[k].law,
        lambda law: SetStage(k, "law", law),
        width=LAW,
    )
    form.layout.addWidget(row("lasts, then waits", _times(form, k), width=2 * NARROW + 4))
    _add_buttons(form, k, titles)


def _times(form: Form, k: int) -> QWidget:
    """What a stage lasts, and the pause at its end, side by side."""
    bench = form.workbench
    holder = QWidget()
    line = QHBoxLayout(holder)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(4)
    for which, empty in (("lasts", None), ("pause", "0 s")):

        def change(text: str, w: str = which, none: str | None = empty) -> bool:
            return bench.do(SetStage(k, w, _seconds(text) or none))

        field = live_field("", f"{which}_{k}", change, bench.finish_gesture, bench.cancel_gesture)
        field.setFixedWidth(NARROW)
        field.setPlaceholderText("rate" if empty is None else "")

        def show(field=field, w: str = which, none: str | None = empty) -> None:  # type: ignore[no-untyped-def]
            stages = _program(form).stages
            if k < len(stages):
                field.show_source(source_text(getattr(stages[k], w) or none))

        form.on_refresh(show)
        line.addWidget(field)
    return holder


def _add_buttons(form: Form, k: int, titles: dict[str, str]) -> None:
    program = _program(form)
    moving = [move.driver for move in program.stages[k].moves]
    entries: list[tuple[str, str, Edit]] = []
    for driver, title in titles.items():
        if driver not in moving:
            entries.append((f"move_add_{k}_{driver}", f"With {title}", AddMove(k, driver)))
        elif len(moving) > 1:
            entries.append((f"move_drop_{k}_{driver}", f"Without {title}", RemoveMove(k, driver)))
    if len(program.stages) > 1:
        entries.append((f"stage_remove_{k}", "Remove stage", RemoveStage(k)))
    form.buttons(*((name, words, lambda e=edit: form.once(e)) for name, words, edit in entries))
