"""The events of a motion on the strip: marks, and names in two rows that never collide."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anakinema.findings import Evaluation, event_words
from anakinema.ui.stage.overlays import outcome_colour
from anakinema.ui.strip.ground import Ground
from anakinema.ui.strip.labels import ORDINARY, naming_rank
from anakinema.ui.theme import Theme, font, scaled

GAP = 10
"""Pixels between two names."""
BESIDE = 9
"""Pixels from a mark to its name."""


def rows_high() -> int:
    """Pixels of both rows."""
    return 2 * scaled(18)


@dataclass(frozen=True, slots=True)
class Mark:
    """An event, or the closest pose of a gap, at a pixel."""

    x: float
    progress: float
    kind: str
    words: str
    colour: QColor


@dataclass(frozen=True, slots=True)
class Name:
    """Where a mark's name stands: its first pixel and its row; None if there is no room."""

    mark: Mark
    left: float
    row: int


def marks(evaluation: Evaluation, ground: Ground, theme: Theme) -> list[Mark]:
    """All marks from left to right."""
    colours = {"extreme": theme.quiet, "change point": theme.warn}
    colours |= dict.fromkeys(ORDINARY, theme.accent)
    found = [
        Mark(
            ground.x(e.progress),
            e.progress,
            e.kind.value,
            event_words(evaluation, e),
            QColor(colours.get(e.kind.value, theme.fail)),
        )
        for e in evaluation.motion.events
    ]
    for finding in evaluation.verdict.findings:
        if finding.gap is not None and finding.kind == "gap":
            colour = outcome_colour(finding.outcome, theme)
            at = finding.gap.progress
            value = evaluation.resolved.units.format(finding.gap.most, finding.dimension)
            found.append(Mark(ground.x(at), at, "closest", f"closest {value}", colour))
    low, high = ground.axis.start - 1, ground.axis.end + 1
    return sorted(
        (m for m in found if low <= m.x <= high), key=lambda m: (m.x, m.kind == "extreme")
    )


def placed_names(found: list[Mark], width: dict[str, float], low: float, high: float) -> list[Name]:
    """Names where there is room for them, what matters most first; each in one of two rows.

    ``width``: pixels of each mark's words. A name stands right or left of its mark, in the upper
    row with the marks where it hides none of them, else in the lower one with a leader.
    """
    taken: tuple[list[tuple[float, float]], list[tuple[float, float]]] = ([], [])
    taken[0].extend((mark.x - 7, mark.x + 7) for mark in found)
    out = []
    for mark in sorted(found, key=lambda m: naming_rank(m.kind)):
        wide = width[mark.words]
        for row, left in (
            (0, mark.x + BESIDE),
            (0, mark.x - BESIDE - wide),
            (1, mark.x + 4),
            (1, mark.x - 4 - wide),
        ):
            span = (left, left + wide)
            inside = span[0] > low and span[1] < high
            if inside and all(
                span[1] + GAP < a or b + GAP < span[0] for a, b in _others(taken[row], mark, row)
            ):
                taken[row].append(span)
                out.append(Name(mark, left, row))
                break
    return out


def _others(spans: list[tuple[float, float]], mark: Mark, row: int) -> list[tuple[float, float]]:
    """What a name must keep clear of: all but its own mark."""
    if row:
        return spans
    return [(a, b) for a, b in spans if not abs((a + b) / 2 - mark.x) < 0.01]


def draw_events(
    painter: QPainter, found: list[Mark], theme: Theme, low: float, high: float
) -> None:
    """Paint marks and names, from pixel 0 down."""
    row = scaled(18)
    middle = row / 2
    painter.setFont(font(12))
    metrics = painter.fontMetrics()
    width = {mark.words: float(metrics.horizontalAdvance(mark.words)) for mark in found}
    for name in placed_names(found, width, low, high):
        painter.setPen(QColor(theme.ink))
        box = QRectF(name.left, name.row * row, width[name.mark.words] + 4, row)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, name.mark.words)
        if name.row:
            painter.setPen(QPen(QColor(theme.line), 1))
            painter.drawLine(
                QPointF(name.mark.x, middle + 6), QPointF(name.mark.x, row + middle + 4)
            )
    painter.setPen(Qt.PenStyle.NoPen)
    for mark in found:
        painter.setBrush(mark.colour)
        at = QPointF(mark.x, middle)
        if mark.kind == "extreme":
            painter.drawEllipse(at, 3.4, 3.4)
        else:
            diamond = [QPointF(0, -6), QPointF(6, 0), QPointF(0, 6), QPointF(-6, 0)]
            painter.drawPolygon(QPolygonF([at + corner for corner in diamond]))
