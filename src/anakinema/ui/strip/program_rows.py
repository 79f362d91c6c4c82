"""The program on the strip: a row for each driver, a block for each stage that moves it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anakinema.edits import Edit, SetStage, SetStageTarget
from anakinema.findings import Evaluation, joint_value_words
from anakinema.geometry import MotionLaw, rise
from anakinema.ui.strip.ground import Ground
from anakinema.ui.theme import Theme, font
from anakinema.units import LENGTH

ROW = 22
MOST_ROWS = 4
GRIP = 7
"""Pixels to both sides of an end within which it is taken hold of."""
PAUSE = 9
"""Pixels of the mark of a pause where the strip shows progress, on which it takes no room."""


@dataclass(frozen=True, slots=True)
class Block:
    """A stage's move of one driver. ``box`` in pixels; ``own``: stated in the document, not the
    way back of *there and back*."""

    stage: int
    driver: int
    box: QRectF
    pause: QRectF | None
    start: float
    end: float
    own: bool


def blocks(evaluation: Evaluation, ground: Ground) -> list[Block]:
    """All blocks of a program in rows from 0."""
    program = evaluation.resolved.program
    own = len(evaluation.source.program.stages)
    values = list(program.starts)
    found = []
    for k, stage in enumerate(program.stages):
        begin, end, rested = ground.stage_pixels(k)
        for driver, target in stage.moves:
            row = QRectF(begin, driver * ROW + 2, max(end - begin, 1.0), ROW - 4)
            pause = None
            if stage.pause > 0:
                wide = rested - end if ground.on_time else PAUSE
                left = end if ground.on_time else end - PAUSE
                pause = QRectF(left, row.top(), wide, row.height())
            found.append(Block(k, driver, row, pause, values[driver], target, k < own))
            values[driver] = target
    return found


def rows_high(evaluation: Evaluation | None) -> int:
    """Pixels that the rows take."""
    if evaluation is None:
        return 0
    return ROW * min(len(evaluation.resolved.program.starts), MOST_ROWS)


def block_at(found: list[Block], x: float, y: float) -> Block | None:
    """The block under a pixel."""
    return next((b for b in found if b.box.adjusted(0, 0, GRIP, 0).contains(x, y)), None)


def end_at(found: list[Block], x: float, y: float) -> Block | None:
    """The block of the document whose end is under a pixel."""
    near = [
        b
        for b in found
        if b.own and b.box.top() <= y <= b.box.bottom() and abs(b.box.right() - x) <= GRIP
    ]
    return min(near, key=lambda b: abs(b.box.right() - x), default=None)


def dragged(evaluation: Evaluation, ground: Ground, block: Block, dx: float) -> Edit | None:
    """The edit of an end dragged by pixels: the value it goes to, or on time how long it takes."""
    document = evaluation.source
    stage = document.program.stages[block.stage]
    if ground.on_time:
        span = ground.axis.value(ground.axis.start + 1) - ground.axis.low
        lasts = float(evaluation.motion.timing.spans[block.stage]) + dx * span
        return SetStage(block.stage, "lasts", f"{max(lasts, 0.01):.3g} s")
    driver = document.program.drivers[block.driver]
    if driver.id not in {move.driver for move in stage.moves}:
        return None
    share = dx / max(block.box.width(), 1.0)
    value = block.end + share * (block.end - block.start)
    return SetStageTarget(block.stage, driver.id, _rounded(evaluation, block.driver, value))


def _rounded(evaluation: Evaluation, driver: int, value: float) -> str:
    """A value as it would be typed: whole degrees, half millimetres, fiftieths of an inch."""
    joint = evaluation.motion.driver_joints[driver]
    units = evaluation.resolved.units
    if evaluation.mechanism.angular[joint]:
        return f"{round(np.degrees(value)):g} deg"
    step = 0.02 * 25.4 if units.length == "in" else 0.5
    return f"{round(value / step) * step / units.factor(LENGTH):.6g} {units.length}"


def draw_rows(
    painter: QPainter,
    evaluation: Evaluation,
    ground: Ground,
    theme: Theme,
    chosen: int | None,
    label_left: float,
    label_wide: float,
) -> None:
    """Paint rows and blocks; ``chosen`` is the number of the selected stage."""
    drivers = evaluation.document.program.drivers
    painter.setFont(font(12))
    for k, driver in enumerate(drivers[:MOST_ROWS]):
        painter.setPen(QColor(theme.quiet))
        words = driver.title if len(drivers) > 1 else f"Program: {driver.title}"
        box = QRectF(label_left, k * ROW, label_wide, ROW)
        shown = painter.fontMetrics().elidedText(
            words, Qt.TextElideMode.ElideRight, int(label_wide)
        )
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, shown)
    painter.save()
    painter.setClipRect(
        QRectF(ground.axis.start - 1, 0, ground.axis.end - ground.axis.start + 2, 400)
    )
    for block in blocks(evaluation, ground):
        if block.driver < MOST_ROWS:
            _draw_block(painter, evaluation, block, theme, chosen == block.stage)
    painter.restore()


def _draw_block(
    painter: QPainter, evaluation: Evaluation, block: Block, theme: Theme, chosen: bool
) -> None:
    stage = evaluation.resolved.program.stages[block.stage]
    accent = QColor(theme.accent)
    fill = QColor(accent)
    fill.setAlpha(48 if block.own else 18)
    painter.setBrush(fill)
    painter.setPen(QPen(accent, 2 if chosen else 1))
    painter.drawRoundedRect(block.box.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
    if block.own:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(accent)
        painter.drawRoundedRect(
            QRectF(block.box.right() - 4, block.box.top() + 3, 3, block.box.height() - 6), 1, 1
        )
    left = block.box.left() + 5
    if block.box.width() > 40:
        _draw_law(painter, stage.law, QRectF(left, block.box.top() + 4, 16, 10), accent)
        left += 22
    joint = evaluation.motion.driver_joints[block.driver]
    words = f"to {joint_value_words(evaluation, joint, block.end)}"
    span = float(evaluation.motion.timing.spans[block.stage])
    full = f"{words}, {span:.3g} s"
    painter.setPen(QColor(theme.ink if block.own else theme.quiet))
    room = QRectF(left, block.box.top(), block.box.right() - left - 8, block.box.height())
    metrics = painter.fontMetrics()
    shown = next((w for w in (full, words) if metrics.horizontalAdvance(w) <= room.width()), "")
    painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
    if block.pause is not None:
        _draw_pause(painter, block.pause, f"{stage.pause:.3g} s", theme)


def _draw_pause(painter: QPainter, box: QRectF, words: str, theme: Theme) -> None:
    painter.setPen(QPen(QColor(theme.quiet), 1))
    painter.setBrush(QColor(theme.deep))
    painter.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
    text = f"waits {words}"
    if painter.fontMetrics().horizontalAdvance(text) < box.width() - 6:
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        return
    middle = box.center()
    for dx in (-1.5, 1.5):
        painter.drawLine(
            QPointF(middle.x() + dx, middle.y() - 4), QPointF(middle.x() + dx, middle.y() + 4)
        )


def _draw_law(painter: QPainter, law: MotionLaw, box: QRectF, colour: QColor) -> None:
    """The rise of a law over its time, small."""
    x = np.linspace(0.0, 1.0, 13)
    y = rise(law, x)[0]
    painter.setPen(QPen(colour, 1.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(
        QPolygonF(
            [
                QPointF(box.left() + float(a) * box.width(), box.bottom() - float(b) * box.height())
                for a, b in zip(x, y, strict=True)
            ]
        )
    )


def stage_words(evaluation: Evaluation, block: Block) -> str:
    """A block in words, for its tip and for assistive technology."""
    stage = evaluation.resolved.program.stages[block.stage]
    joint = evaluation.motion.driver_joints[block.driver]
    title = evaluation.document.program.drivers[block.driver].title
    begin, end = (joint_value_words(evaluation, joint, v) for v in (block.start, block.end))
    law = stage.law.replace("_", " ")
    pause = f", then waits {stage.pause:.3g} s" if stage.pause > 0 else ""
    span = float(evaluation.motion.timing.spans[block.stage])
    return f"Stage {block.stage + 1}: {title} {begin} to {end}, {law}, {span:.3g} s{pause}"
