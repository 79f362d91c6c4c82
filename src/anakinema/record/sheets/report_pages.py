"""The report on paper: the verdict with margins and how sure it is, cautions, curves, events."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.document.model import PaperName
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
from anakinema.record.sheets.front import trial_sheets
from anakinema.record.sheets.layout import LEFT, LETTERS, shortened
from anakinema.record.sheets.lines import INSET, SIZE, Lines, in_pages, paragraph, span_of, width_of
from anakinema.record.sheets.paper import THICK, Edge, Line, Mark, Pen, Text, straight
from anakinema.record.sheets.papers import papers_up_to
from anakinema.record.sheets.sheet import Drawn, Leaf, Sheet, numbered
from anakinema.units import Dimension

COLUMNS = (17.0, 64.0, 30.0, 45.0, 24.0)
"""Widths of the columns of the verdict: outcome, title, value, asked, how sure."""
CURVE = 27.0
"""mm, height of a curve with its numbers."""
RULE = Pen(0.1, "#808080")
PLAIN = ("complete",)
"""Reasons that say nothing more than the outcome."""


def report_sheets(evaluation: Evaluation) -> list[Sheet]:
    """The verdict, then the motion: as many sheets as it takes."""
    drawn = Drawn(evaluation, evaluation.motion.poses[0], ())
    leaves = [leaf for make in REPORTED for leaf in make(drawn)]
    return numbered(leaves, evaluation.document.name, drawn.settings)


def verdict_pages(drawn: Drawn) -> Iterator[Leaf]:
    """The verdict with margins, mobility, cautions."""
    paper = papers_up_to(drawn.settings.paper)[0]
    yield from _leaves(in_pages(_verdict_lines(drawn.evaluation, paper), paper), "Verdict", paper)


def event_pages(drawn: Drawn) -> Iterator[Leaf]:
    """What happens along the motion, and when."""
    paper = papers_up_to(drawn.settings.paper)[0]
    yield from _leaves(in_pages(_event_lines(drawn.evaluation, paper), paper), "Events", paper)


def curve_pages(drawn: Drawn) -> Iterator[Leaf]:
    """Every joint that moves, over the time."""
    paper = papers_up_to(drawn.settings.paper)[0]
    pages = _curve_pages(drawn.evaluation, paper)
    yield from _leaves(pages, "Motion over time", paper)


REPORTED = (verdict_pages, curve_pages, event_pages, trial_sheets)


def _leaves(pages: Sequence[list[Mark]], title: str, paper: PaperName) -> Iterator[Leaf]:
    key = title.lower()
    for k, marks in enumerate(pages, start=1):
        yield Leaf(f"{key}/{k}", title, title, paper, tuple(marks))


def _verdict_lines(evaluation: Evaluation, paper: PaperName) -> Lines:
    document = evaluation.document
    lines = paragraph(f"{document.name}: {verdict_words(evaluation)}", paper, 4.0, strong=True)
    if document.note:
        lines += paragraph(document.note, paper)
    lines += [[], _cells(("", "asked or built in", "value", "asked", "how sure"), strong=True)]
    for finding in evaluation.verdict.findings:
        lines += _finding(evaluation, finding, paper)
    lines += [[], *paragraph("Mobility", paper, strong=True)]
    for _, words in mobility_words(evaluation):
        lines += paragraph(words, paper)
    for words in program_notes(evaluation):
        lines += paragraph(words, paper)
    lines += [[], *paragraph("Cautions", paper, strong=True)]
    for words in cautions(evaluation):
        lines += paragraph(words, paper)
    return lines + paragraph(
        "This is kinematics: no force, wear or life is looked at. Guards and loads are for local"
        " codes and a licensed engineer.",
        paper,
    )


def _finding(evaluation: Evaluation, finding: Finding, paper: PaperName) -> Lines:
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
    below = paragraph(rest, paper, 2.3, left=COLUMNS[0]) if rest else []
    return [line, *below]


def _cells(words: tuple[str, ...], *, strong: bool = False) -> list[Mark]:
    marks: list[Mark] = [straight((-INSET, -1.4), (sum(COLUMNS) - INSET, -1.4), pen=RULE)]
    x = 0.0
    for width, each in zip(COLUMNS, words, strict=True):
        most = width - 3
        size = min(SIZE, max(2.0, most / (LETTERS * max(len(each), 1))))
        marks.append(Text((x, 0.0), shortened(each, size, most), size, strong=strong))
        x += width
    return marks


def _event_lines(evaluation: Evaluation, paper: PaperName) -> Lines:
    lines: Lines = []
    for event in evaluation.motion.events:
        time = float(evaluation.motion.time(np.array([event.progress]))[0])
        place = progress_words(evaluation, event.progress)
        lines += paragraph(f"{time:.3f} s, {place}: {event_words(evaluation, event)}", paper)
    return lines


# Curves ---------------------------------------------------------------------------------------


def _curve_pages(evaluation: Evaluation, paper: PaperName) -> list[list[Mark]]:
    motion = evaluation.motion
    moving = [
        k
        for k, joint in enumerate(evaluation.document.joints)
        if spec_of(joint.kind).moves and float(np.ptp(motion.values[:, k])) > 0.0
    ]
    time = motion.time(motion.progress)
    if not moving or len(time) < 2 or time[-1] <= time[0]:
        return []
    low, top = span_of(paper)
    each = int((top - low) / CURVE)
    pages = []
    for first in range(0, len(moving), each):
        marks: list[Mark] = []
        for row, joint in enumerate(moving[first : first + each]):
            marks += _curve(evaluation, joint, time, top - (row + 1) * CURVE, width_of(paper))
        pages.append(marks)
    return pages


def _curve(evaluation: Evaluation, joint: int, time: Floats, y: float, room: float) -> list[Mark]:
    """One joint over the time: its title, least and greatest value, where each is."""
    shown = evaluation.document.joints[joint]
    dimension: Dimension = spec_of(shown.kind).dimension
    values, units = evaluation.motion.values[:, joint], evaluation.resolved.units
    low, high = float(values.min()), float(values.max())
    left, wide, tall = LEFT + 6, room - 38, CURVE - 12
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
