"""A motion program from a table, as a spreadsheet copies it."""

from __future__ import annotations

import re

from anakinema.document import model
from anakinema.edits.base import Edit, Together
from anakinema.edits.program import SetDriver, SetStages
from anakinema.errors import ValueOutOfRangeError

MOST_ROWS = 201
SAMPLES = 720
"""About so many samples a table is given in all."""


def pasted_program(document: model.Document, text: str) -> Edit:
    """The edit that moves the drivers by a table: a time in seconds, then a value a driver.

    Values are in the document's units; from row to row they change evenly. Raises a
    `ValueOutOfRangeError` that names the line.
    """
    drivers = document.program.drivers
    if not drivers:
        raise ValueOutOfRangeError(
            "there is no driver for it yet.",
            where="table",
            remedy="Click a joint and drive it first.",
        )
    rows = [_row(line, k, len(drivers)) for k, line in enumerate(text.strip().splitlines())]
    if len(rows) < 2:
        raise ValueOutOfRangeError(
            "a program needs two lines or more.",
            where="table",
            remedy="Paste a time and a value for each driver in each line.",
        )
    if len(rows) > MOST_ROWS:
        raise ValueOutOfRangeError(
            f"it has {len(rows)} lines; {MOST_ROWS} are taken at most.",
            where="table",
            remedy="Leave out lines where it runs evenly.",
        )
    stages: list[model.Stage] = []
    count = max(2, min(60, SAMPLES // len(rows)))
    for k, (before, row) in enumerate(zip(rows, rows[1:], strict=False)):
        if row[0] <= before[0]:
            raise ValueOutOfRangeError(
                f"its time {row[0]:g} s does not come after {before[0]:g} s.",
                where=f"line {k + 2}",
                remedy="Let the times rise.",
            )
        if row[1:] == before[1:]:
            stages = _waiting(stages, row[0] - before[0], k + 2)
            continue
        moves = tuple(
            model.Move(driver=driver.id, to=value)
            for driver, value in zip(drivers, row[1:], strict=True)
        )
        lasts = f"{row[0] - before[0]:.12g} s"
        stages.append(model.Stage(moves=moves, lasts=lasts, count=count))
    starts = [
        SetDriver(driver.id, "start", value)
        for driver, value in zip(drivers, rows[0][1:], strict=True)
    ]
    return Together("Take the table", (*starts, SetStages(tuple(stages))))


def _waiting(stages: list[model.Stage], seconds: float, line: int) -> list[model.Stage]:
    """Stages with a wait at the end of the last."""
    if not stages:
        raise ValueOutOfRangeError(
            "nothing moves up to it.",
            where=f"line {line}",
            remedy="Begin the table where the motion begins.",
        )
    last = stages[-1]
    so_far = float(str(last.pause).split()[0])
    waits = f"{so_far + seconds:.12g} s"
    return [*stages[:-1], last.model_copy(update={"pause": waits})]


def _row(line: str, k: int, drivers: int) -> list[float]:
    cells = [c for c in re.split(r"[;\t]|\s{2,}|\s(?=[-+\d])", line.strip()) if c]
    try:
        numbers = [float(cell.replace(",", ".")) for cell in cells]
    except ValueError:
        numbers = []
    if len(numbers) != drivers + 1:
        raise ValueOutOfRangeError(
            f"'{line.strip()[:60]}' is not {drivers + 1} numbers.",
            where=f"line {k + 1}",
            remedy="Give a time in seconds and a value for each driver, in columns.",
        )
    return numbers
