"""The report on paper: the verdict with margins and how sure it is, cautions, curves, events."""

from __future__ import annotations

import math

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.event_wording import event_words
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.hazards import cautions
from anakinema.findings.mobility_wording import mobility_words, program_notes
from anakinema.findings.value_wording import progress_words
from anakinema.findings.wording import (
    amount_words,
    asked_words,
    trust_words,
    value_words,
    verdict_words,
)
from anakinema.geometry.contour import Floats
from anakinema.record.sheets.layout import (
    A4,
    LEFT,
    LETTERS,
    MARGIN,
    ROWS,
    Fields,
    framed,
    shortened,
)
from anakinema.record.sheets.paper import THICK, Edge, Line, Mark, Pen, Sheet, Text, moved, straight
from anakinema.units import Dimension

WIDE = A4[0] - LEFT - MARGIN
TOP, LOW = A4[1] - MARGIN - 10, MARGIN + sum(ROWS) + 8
LINE = 5.2
"""mm from one line of words to the next."""
SIZE = 2.8
COLUMNS = (17.0, 64.0, 30.0, 45.0, 24.0)
"""Widths of the columns of the verdict: outcome, title, value, asked, how sure."""
CURVE = 27.0
"""mm, height of a curve with its numbers."""
RULE = Pen(0.1, "#808080")
PLAIN = ("complete",)
"""Reasons that say nothing more than the outcome."""


def report_sheets(evaluation: Evaluation) -> list[Sheet]:
    """The verdict, then the motion: as many A4 sheets as it takes."""
    pages = [*_in_pages(_verdict_lines(evaluation), "Verdict"), *_curve_pages(evaluation)]
    pages += _in_pages(_event_lines(evaluation), "Events")
    size, found = len(pages), []
    for k, (title, marks) in enumerate(pages, start=1):
        fields = Fields(evaluation.document.name, title, "none", f"{k} of {size}", "A4")
        found.append(Sheet(title, *A4, (*framed(A4, fields), *marks)))
    return found


_Lines = list[list[Mark]]
"""Marks of each line, as if its base line were at 0."""


def _in_pages(lines: _Lines, title: str) -> list[tuple[str, list[Mark]]]:
    most = int((TOP - LOW) / LINE)
    pages = []
    for first in range(0, len(lines), most):
        marks: list[Mark] = []
        for k, line in enumerate(lines[first : first + most]):
            marks += [moved(mark, 0.0, TOP - k * LINE) for mark in line]
        pages.append((title, marks))
    return pages


def _paragraph(
    words: str, size: float = SIZE, *, strong: bool = False, left: float = 0.0
) -> _Lines:
    """Words in as many lines as they need."""
    most = int((WIDE - left - 4) / (LETTERS * size))
    lines, line = [], ""
    for word in words.split():
        if line and len(line) + 1 + len(word) > most:
            lines.append(line)
            line = word
        else:
            line = f"{line} {word}".strip()
    return [[Text((LEFT + 3 + left, 0.0), each, size, strong=strong)] for each in [*lines, line]]


def _verdict_lines(evaluation: Evaluation) -> _Lines:
    document = evaluation.document
    lines = _paragraph(f"{document.name}: {verdict_words(evaluation)}", 4.0, strong=True)
    if document.note:
        lines += _paragraph(document.note)
    lines += [[], _cells(("", "asked or built in", "value", "asked", "how sure"), strong=True)]
    for finding in evaluation.verdict.findings:
        lines += _finding(evaluation, finding)
    lines += [[], *_paragraph("Mobility", strong=True)]
    for _, words in mobility_words(evaluation):
        lines += _paragraph(words)
    for words in program_notes(evaluation):
        lines += _paragraph(words)
    lines += [[], *_paragraph("Cautions", strong=True)]
    for words in cautions(evaluation):
        lines += _paragraph(words)
    return lines + _paragraph(
        "This is kinematics: no force, wear or life is looked at. Guards and loads are for local"
        " codes and a licensed engineer."
    )


def _finding(evaluation: Evaluation, finding: Finding) -> _Lines:
    where = "" if finding.progress is None else f"at {progress_words(evaluation, finding.progress)}"
    cells = (
        finding.outcome.value,
        finding.title,
        value_words(evaluation, finding),
        asked_words(evaluation, finding),
        trust_words(evaluation, finding).partition(":")[0],
    )
    margin, units = finding.margin, evaluation.resolved.units
    spare = ""
    if margin is not None and math.isfinite(margin) and finding.kind != "overlap":
        spare = f"margin {amount_words(units, margin, finding.dimension, finding.kind)}"
    reason = "" if finding.reason in PLAIN else finding.reason
    rest = ", ".join(each for each in (where, spare, reason) if each)
    line = _cells(cells, strong=finding.outcome is Outcome.FAIL)
    below = _paragraph(rest, 2.3, left=COLUMNS[0]) if rest else []
    return [line, *below]


def _cells(words: tuple[str, ...], *, strong: bool = False) -> list[Mark]:
    marks: list[Mark] = [straight((LEFT, -1.4), (LEFT + WIDE, -1.4), pen=RULE)]
    x = LEFT
    for width, each in zip(COLUMNS, words, strict=True):
        most = width - 3
        size = min(SIZE, max(2.0, most / (LETTERS * max(len(each), 1))))
        marks.append(Text((x + 3, 0.0), shortened(each, size, most), size, strong=strong))
        x += width
    return marks


def _event_lines(evaluation: Evaluation) -> _Lines:
    lines: _Lines = []
    for event in evaluation.motion.events:
        time = float(evaluation.motion.time(np.array([event.progress]))[0])
        place = progress_words(evaluation, event.progress)
        lines += _paragraph(f"{time:.3f} s, {place}: {event_words(evaluation, event)}")
    return lines


# Curves ---------------------------------------------------------------------------------------


def _curve_pages(evaluation: Evaluation) -> list[tuple[str, list[Mark]]]:
    motion = evaluation.motion
    moving = [
        k
        for k, joint in enumerate(evaluation.document.joints)
        if spec_of(joint.kind).moves and float(np.ptp(motion.values[:, k])) > 0.0
    ]
    time = motion.time(motion.progress)
    if not moving or len(time) < 2 or time[-1] <= time[0]:
        return []
    each = int((TOP - LOW) / CURVE)
    pages = []
    for first in range(0, len(moving), each):
        marks: list[Mark] = []
        for row, joint in enumerate(moving[first : first + each]):
            marks += _curve(evaluation, joint, time, TOP - (row + 1) * CURVE)
        pages.append(("Motion over time", marks))
    return pages


def _curve(evaluation: Evaluation, joint: int, time: Floats, y: float) -> list[Mark]:
    """One joint over the time: its title, least and greatest value, where each is."""
    shown = evaluation.document.joints[joint]
    dimension: Dimension = spec_of(shown.kind).dimension
    values, units = evaluation.motion.values[:, joint], evaluation.resolved.units
    low, high = float(values.min()), float(values.max())
    left, wide, tall = LEFT + 6, WIDE - 44, CURVE - 12
    x = left + wide * (time - time[0]) / (time[-1] - time[0])
    up = y + 3 + tall * (values - low) / (high - low)
    places = list(zip(x.tolist(), up.tolist(), strict=True))
    line = Line(places[0], tuple(Edge(place) for place in places[1:]), Pen(0.35))
    marks: list[Mark] = [
        straight((left, y + 3), (left + wide, y + 3)),
        straight((left, y + 3), (left, y + 3 + tall)),
        line,
        Text((left, y + 4.4 + tall), shown.title, SIZE, strong=True),
        Text((left + wide + 2, y + 2 + tall), units.format(high, dimension), 2.4),
        Text((left + wide + 2, y + 3), units.format(low, dimension), 2.4),
        Text((left, y), f"{time[0]:.2f} s", 2.0),
        Text((left + wide, y), f"{time[-1]:.2f} s", 2.0, "end"),
    ]
    for event in evaluation.motion.events:
        if event.joint == joint:
            at = float(evaluation.motion.time(np.array([event.progress]))[0])
            u = left + wide * (at - time[0]) / (time[-1] - time[0])
            marks.append(straight((u, y + 2), (u, y + 4), pen=THICK))
    return marks
