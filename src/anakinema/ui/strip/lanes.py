"""The painted strip: the program, events, curves with scale and band, the playhead, a readout.

One long class: the widget with its events of mouse, wheel and keys; what each row paints stands in
modules of its own.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QMenu, QToolTip, QWidget

from anakinema.document import Going
from anakinema.edits import Edit, Remove
from anakinema.findings import Outcome, joint_value_words, progress_words
from anakinema.session import Lane
from anakinema.ui.axes import Axis, draw_cursor, draw_curve, draw_level, round_values
from anakinema.ui.guarded import guarded
from anakinema.ui.roles import Spoken
from anakinema.ui.stage.overlays import outcome_colour
from anakinema.ui.strip import events_row, program_rows
from anakinema.ui.strip.ground import Ground, Window
from anakinema.ui.strip.labels import short_label, shown_range
from anakinema.ui.strip.order import LaneOrder
from anakinema.ui.strip.program_rows import Block
from anakinema.ui.theme import font, scaled
from anakinema.ui.workbench import Selection, Workbench

LABELS = 252
RIGHT = 62
"""Pixels at the right, which hold the lanes' scales."""
AXIS = 24
HANDLE = 6
"""Pixels: radius of the ring by which a result is pulled."""
LOW = 17
"""Pixels of the lowest lane that can be read."""
NEAR = 9
"""Pixels from which a mark is clicked."""
SECOND_STEPS = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)


@dataclass(frozen=True, slots=True)
class _Held:
    """A result in hand: where it was taken, its value then, and what a pixel is worth.

    As it was then, though the lane's scale follows the curve.
    """

    y: float
    begun: float
    scale: float

    def value(self, y: float, fine: bool) -> float:
        """What the pointer asks for; ``fine``: by a tenth."""
        return self.begun + (y - self.y) * self.scale * (0.1 if fine else 1.0)


@guarded
class Lanes(QWidget):
    """Click or drag to scrub; drag the end of a block; the wheel zooms, with Shift it moves on."""

    axis_changed = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("lanes")
        self.setAccessibleName("travel strip")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumHeight(110)
        self._workbench = workbench
        self._picture: QPixmap | None = None
        self._scrubbing = False
        self._window = Window()
        self._pulled: tuple[Block, float] | None = None
        self._pointed: QPointF | None = None
        self._tick_words: list[QRectF] = []
        self._in_hand: _Held | None = None
        self.on_time = False
        """Whether time runs along the strip, and not progress."""
        self.order = LaneOrder()
        workbench.evaluated.connect(self._renew)
        workbench.lanes_ready.connect(self._renew)
        workbench.document_changed.connect(self._renew)
        workbench.theme_changed.connect(self._renew)
        workbench.playhead_moved.connect(self._moved)
        workbench.selection_changed.connect(self._renew)
        workbench.pull.changed.connect(self.update)

    def _renew(self) -> None:
        self._picture = None
        self.update()

    def _moved(self) -> None:
        """The playhead has moved; while it is zoomed the strip follows it."""
        x = self.x_of(self._workbench.progress)
        ground = self.ground
        if self._workbench.is_playing and not ground.axis.start <= x <= ground.axis.end:
            self._window = self._window.moved(ground.share(x) - self._window.low)
            self._picture = None
        self.update()

    def show_on_time(self, on: bool) -> None:
        """Let time run along the strip, or progress."""
        self.on_time = on
        self._window = Window()
        self._renew()
        self.axis_changed.emit()

    # Geometry ------------------------------------------------------------------------------

    @property
    def ground(self) -> Ground:
        """Progress, time and pixels as they are shown."""
        evaluation = self._workbench.evaluation
        return Ground(evaluation, self._window, LABELS, self.width() - RIGHT, self.on_time)

    @property
    def shown(self) -> list[Lane]:
        """The lanes on show, in their order, as many as can be read."""
        room = self.height() - self.lanes_top - AXIS
        return self.order.shown(self._workbench.lanes)[: max(1, int(room / scaled(LOW)))]

    @property
    def _unshown(self) -> int:
        """How many lanes there is no room for."""
        return len(self.order.shown(self._workbench.lanes)) - len(self.shown)

    @property
    def events_top(self) -> int:
        """Pixel at which the events begin, below the program."""
        return program_rows.rows_high(self._workbench.evaluation)

    @property
    def lanes_top(self) -> int:
        """Pixel at which the lanes begin."""
        return self.events_top + events_row.rows_high()

    def x_of(self, progress: float) -> float:
        """Pixel of a progress."""
        return self.ground.x(progress)

    def progress_of(self, x: float) -> float:
        """Progress of a pixel."""
        return self.ground.progress(x)

    def lane_box(self, index: int) -> QRectF:
        """Where a lane is drawn."""
        count = max(1, len(self.shown))
        high = (self.height() - self.lanes_top - AXIS) / count
        return QRectF(0, self.lanes_top + index * high, self.width(), high)

    def blocks(self) -> list[Block]:
        """Blocks of the program as they are shown."""
        evaluation = self._workbench.evaluation
        return program_rows.blocks(evaluation, self.ground) if evaluation is not None else []

    # Painting ------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._picture = None
        super().resizeEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        # Ended whatever happens: a painter left open ends the program.
        with QPainter(self) as painter:
            self._paint(painter)

    def _paint(self, painter: QPainter) -> None:
        if self._picture is None:
            self._picture = self._draw_picture()
        painter.drawPixmap(0, 0, self._picture)
        evaluation = self._workbench.evaluation
        if evaluation is not None and evaluation.resolved.program.stages:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._draw_values(painter)
            self._draw_handle(painter)
            self._draw_readout(painter)
            self._draw_playhead(painter)

    def _draw_picture(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        pixmap.setDevicePixelRatio(ratio)
        theme = self._workbench.theme
        pixmap.fill(QColor(theme.panel))
        evaluation = self._workbench.evaluation
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if evaluation is None or not evaluation.resolved.program.stages:
            if self._workbench.has_document:
                painter.setFont(font(13))
                painter.setPen(QColor(theme.quiet))
                painter.drawText(
                    QRectF(self.rect()),
                    Qt.AlignmentFlag.AlignCenter,
                    "Nothing moves yet: at Drive choose a joint, and Drive it.",
                )
            painter.end()
            return pixmap
        selection = self._workbench.selection
        chosen = None
        if selection.kind == "stage" and selection.id.isdecimal():
            chosen = int(selection.id)
        self._draw_tints(painter)
        self._draw_axis(painter)
        program_rows.draw_rows(painter, evaluation, self.ground, theme, chosen, 14, LABELS - 20)
        for index, lane in enumerate(self.shown):
            self._draw_lane(painter, index, lane)
        painter.save()
        painter.translate(0, self.events_top)
        painter.setFont(font(12))
        painter.setPen(QColor(theme.quiet))
        box = QRectF(14, 0, LABELS - 20, scaled(18))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, "Events")
        marks = events_row.marks(evaluation, self.ground, theme)
        events_row.draw_events(painter, marks, theme, LABELS - 30, self.width() - 4)
        painter.restore()
        self._draw_unreached(painter)
        if self._unshown:
            painter.setFont(font(11))
            painter.setPen(QColor(theme.quiet))
            box = QRectF(14, self.height() - AXIS, LABELS - 60, AXIS)
            words = f"{self._unshown} more: draw the strip higher"
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
        painter.end()
        return pixmap

    def _clip(self, painter: QPainter) -> None:
        wide = self.width() - RIGHT - LABELS
        painter.setClipRect(QRectF(LABELS - 1, 0, wide + 2, self.height()))

    def _draw_tints(self, painter: QPainter) -> None:
        """Stretches that violate a gap are tinted through all lanes."""
        evaluation = self._workbench.evaluation
        assert evaluation is not None
        painter.save()
        self._clip(painter)
        for finding in evaluation.verdict.findings:
            if finding.gap is None or finding.outcome is not Outcome.FAIL:
                continue
            colour = outcome_colour(finding.outcome, self._workbench.theme)
            colour.setAlpha(34)
            top = self.events_top
            for low, high in finding.gap.below:
                left, right = self.x_of(low), self.x_of(high)
                painter.fillRect(
                    QRectF(left, top, max(right - left, 2.0), self.height() - AXIS - top), colour
                )
        painter.restore()

    def _ticks(self) -> list[tuple[float, str]]:
        """Pixel and words of every tick: driver values, or seconds on time."""
        evaluation, playback = self._workbench.evaluation, self._workbench.playback
        assert evaluation is not None and playback is not None
        ground, found = self.ground, []
        if ground.on_time:
            axis = ground.axis
            span = axis.high - axis.low
            room = (axis.end - axis.start) / 62
            step = next((s for s in SECOND_STEPS if span / s <= room), SECOND_STEPS[-1])
            first = int(np.ceil(axis.low / step - 1e-9))
            for k in range(first, int(np.floor(axis.high / step + 1e-9)) + 1):
                found.append((axis.pixel(k * step), f"{k * step:g} s"))
            return found
        for stage in range(max(evaluation.motion.stages, 1)):
            start, end = playback.stage_span(stage)
            joint = playback.leader_joint(stage + 0.5)
            if joint is None or start == end:
                continue
            wide = ground.x(stage + 1) - ground.x(stage)
            ticks = round_values(start, end, bool(evaluation.motion.mechanism.angular[joint]), wide)
            for value in ticks if end > start else reversed(ticks):
                x = ground.x(stage + (value - start) / (end - start))
                found.append((x, short_label(joint_value_words(evaluation, joint, value))))
        return found

    def _draw_axis(self, painter: QPainter) -> None:
        evaluation, theme = self._workbench.evaluation, self._workbench.theme
        assert evaluation is not None
        painter.setFont(font(12))
        top, bottom = self.lanes_top, self.height() - AXIS
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.drawLine(QPointF(LABELS, top), QPointF(self.width() - RIGHT, top))
        last_label = -1e9
        self._tick_words = []
        for x, words in self._ticks():
            if not LABELS - 1 <= x <= self.width() - RIGHT + 1:
                continue
            painter.setPen(QPen(QColor(theme.line), 1))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            wide = painter.fontMetrics().horizontalAdvance(words)
            if x - wide / 2 > last_label + 8:
                painter.setPen(QColor(theme.quiet))
                box = QRectF(x - wide / 2 - 1, bottom + 3, wide + 2, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
                self._tick_words.append(box)
                last_label = x + wide / 2
        painter.setPen(QPen(QColor(theme.quiet), 1, Qt.PenStyle.DashLine))
        for stage in range(1, evaluation.motion.stages):
            x = self.x_of(float(stage))
            if LABELS < x < self.width() - RIGHT:
                painter.drawLine(QPointF(x, self.events_top + 4), QPointF(x, bottom))

    def _up(self, index: int, lane: Lane) -> Axis:
        low, high = shown_range(lane)
        inner = self.lane_box(index).adjusted(0, 5, 0, -5)
        return Axis(low, high, inner.bottom(), inner.top())

    def _draw_lane(self, painter: QPainter, index: int, lane: Lane) -> None:
        box, theme = self.lane_box(index), self._workbench.theme
        painter.setPen(QPen(QColor(theme.line), 1))
        painter.drawLine(QPointF(0, box.bottom()), QPointF(self.width() - RIGHT, box.bottom()))
        up = self._up(index, lane)
        self._draw_scale(painter, box, up, lane)
        colour = outcome_colour(lane.outcome, theme)
        if lane.outcome is Outcome.PASS:
            colour = QColor(theme.accent)
        painter.save()
        wide = self.width() - RIGHT - LABELS
        painter.setClipRect(QRectF(LABELS - 1, box.top(), wide + 2, box.height()))
        for bound, below in ((lane.least, True), (lane.greatest, False)):
            if bound is None or not up.low <= bound <= up.high:
                continue
            y = up.pixel(bound)
            forbidden = QColor(theme.fail)
            forbidden.setAlpha(22)
            band = QRectF(LABELS, y, self.width() - RIGHT - LABELS, up.start + 5 - y)
            if not below:
                band = QRectF(LABELS, box.top(), band.width(), y - box.top())
            painter.fillRect(band, forbidden)
            draw_level(painter, self.ground.axis, up, bound, QColor(theme.fail))
        ground = self.ground
        earlier = self.earlier(lane)
        if earlier is not None:
            ghost = QColor(theme.quiet)
            ghost.setAlpha(120)
            places = ground.places(earlier.progress)
            draw_curve(painter, ground.axis, up, places, earlier.values, ghost)
        places = ground.places(lane.progress)
        draw_curve(painter, ground.axis, up, places, lane.values, colour)
        painter.restore()

    def earlier(self, lane: Lane) -> Lane | None:
        """The curve of a lane before the present edit, where it was another."""
        for before in self._workbench.lanes_before:
            if (before.title, before.dimension) == (lane.title, lane.dimension):
                same = before.values.shape == lane.values.shape
                size = float(np.ptp(lane.values)) or 1.0
                if same and np.allclose(before.values, lane.values, atol=1e-4 * size, rtol=0.0):
                    return None
                return before
        return None

    def _draw_scale(self, painter: QPainter, box: QRectF, up: Axis, lane: Lane) -> None:
        """Least and greatest of the lane's range at its left, with its unit."""
        evaluation = self._workbench.evaluation
        assert evaluation is not None
        painter.setFont(font(10))
        painter.setPen(QColor(self._workbench.theme.quiet))
        high = painter.fontMetrics().height()
        if box.height() < 2 * high:
            return
        units = evaluation.resolved.units
        span = (up.high - up.low) / units.factor(lane.dimension)
        digits = 0 if span >= 10 else 1 if span >= 1 else 2
        for value, top in ((up.high, box.top() + 1), (up.low, box.bottom() - high - 1)):
            words = units.format(value, lane.dimension, digits)
            area = QRectF(self.width() - RIGHT + 6, top, RIGHT - 8, high)
            if painter.fontMetrics().horizontalAdvance(words) > area.width():
                words = words.split(" ")[0]
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, words)

    def _draw_unreached(self, painter: QPainter) -> None:
        """What lies beyond the end of the motion is hatched."""
        evaluation = self._workbench.evaluation
        assert evaluation is not None
        end = float(max(evaluation.motion.stages, 1))
        if evaluation.motion.last >= end - 1e-9:
            return
        left = max(self.x_of(evaluation.motion.last), LABELS)
        right = min(self.x_of(end), self.width() - RIGHT)
        top = self.events_top
        box = QRectF(left, top, right - left, self.height() - AXIS - top)
        painter.fillRect(box, QColor(self._workbench.theme.deep))
        painter.fillRect(box, Qt.BrushStyle.BDiagPattern)
        painter.setPen(QColor(self._workbench.theme.fail))
        painter.setFont(font(12, strong=True))
        words, metrics = "not reached", painter.fontMetrics()
        room = QRectF(left + 4, top + 2, metrics.horizontalAdvance(words) + 8, metrics.height() + 2)
        painter.fillRect(room, QColor(self._workbench.theme.panel))
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, words)

    def _draw_values(self, painter: QPainter) -> None:
        """Name and present value of every lane."""
        evaluation, theme = self._workbench.evaluation, self._workbench.theme
        assert evaluation is not None
        progress = self._workbench.progress
        for index, lane in enumerate(self.shown):
            box = self.lane_box(index)
            value = float(np.interp(progress, lane.progress, lane.values))
            words = evaluation.resolved.units.format(value, lane.dimension)
            failed = lane.outcome is Outcome.FAIL
            painter.setFont(font(13, strong=True))
            width = painter.fontMetrics().horizontalAdvance(words)
            painter.setPen(QColor(theme.fail if failed else theme.ink))
            line = painter.fontMetrics().height()
            room = LABELS - 28
            painter.setFont(font(12))
            wide = painter.fontMetrics().horizontalAdvance(lane.title)
            # Beside its value if it fits there, above it if there is the height, else cut.
            above = wide + width + 10 > room and box.height() >= 2 * line - 6
            middle = box.center().y()
            top = middle - 1 if above else middle - line / 2
            painter.setFont(font(13, strong=True))
            painter.drawText(QRectF(room - width + 14, top, width + 2, line), 0, words)
            painter.setFont(font(12))
            painter.setPen(QColor(theme.ink))
            top = middle - line + 1 if above else middle - line / 2 + 1
            name = QRectF(14, top, room if above else room - width - 10, line)
            if wide > name.width():
                painter.setFont(font(10))
            title = painter.fontMetrics().elidedText(
                lane.title, Qt.TextElideMode.ElideMiddle, int(name.width())
            )
            painter.drawText(name, 0, title)

    def handle(self) -> tuple[QPointF, Axis] | None:
        """Where the result of the selected check is taken hold of, with its lane's pixels."""
        bench, evaluation = self._workbench, self._workbench.evaluation
        selection = bench.selection
        if (
            evaluation is None
            or selection.kind != "finding"
            or not bench.pull.can_pull(selection.id)
        ):
            return None
        found = next((f for f in evaluation.verdict.findings if f.id == selection.id), None)
        if found is None or found.progress is None or found.value is None:
            return None
        for index, lane in enumerate(self.shown):
            # Bounds that are those asked: the value is one of the curve's, not a range of it.
            bounds = lane.least, lane.greatest
            asked = bounds == (found.least, found.greatest) != (None, None)
            if lane.finding == found.id and asked:
                up = self._up(index, lane)
                x = self.x_of(found.progress)
                if self.ground.axis.start - 1 <= x <= self.ground.axis.end + 1:
                    return QPointF(x, up.pixel(found.value)), up
        return None

    def _draw_handle(self, painter: QPainter) -> None:
        """A ring with two arrows at the result that can be pulled."""
        found = self.handle()
        if found is None:
            return
        at, theme = found[0], self._workbench.theme
        painter.setPen(QPen(QColor(theme.accent), 2))
        painter.setBrush(QColor(theme.card))
        painter.drawEllipse(at, HANDLE, HANDLE)
        for sign in (-1, 1):
            tip = at + QPointF(0, sign * (HANDLE + 6))
            for side in (-4, 4):
                painter.drawLine(tip, tip + QPointF(side, -4 * sign))

    def _draw_readout(self, painter: QPainter) -> None:
        """What all lanes say under the pointer."""
        evaluation, at = self._workbench.evaluation, self._pointed
        busy = self._scrubbing or self._pulled is not None or self._in_hand is not None
        if evaluation is None or at is None or busy:
            return
        if not (LABELS < at.x() < self.width() - RIGHT and at.y() > self.lanes_top):
            return
        theme, units = self._workbench.theme, evaluation.resolved.units
        progress = min(self.progress_of(at.x()), evaluation.motion.last)
        x = self.x_of(progress)
        painter.setPen(QPen(QColor(theme.quiet), 1, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x, self.lanes_top), QPointF(x, self.height() - AXIS))
        seconds = float(evaluation.motion.time(np.array([progress]))[0])
        lines = [f"{progress_words(evaluation, progress)}, {seconds:.2f} s"]
        for lane in self.shown:
            value = float(np.interp(progress, lane.progress, lane.values))
            lines.append(f"{units.format(value, lane.dimension)}   {lane.title}")
        painter.setFont(font(12))
        metrics = painter.fontMetrics()
        wide = max(metrics.horizontalAdvance(line) for line in lines) + 16
        high = metrics.height() * len(lines) + 8
        left = x + 10 if x + 10 + wide < self.width() - 4 else x - 10 - wide
        top = min(max(at.y() - high / 2, 2), self.height() - high - 2)
        box = QRectF(left, top, wide, high)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.ink))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(QColor(theme.panel))
        painter.drawText(box.adjusted(8, 4, -8, -4), 0, "\n".join(lines))

    def _draw_playhead(self, painter: QPainter) -> None:
        evaluation, playback = self._workbench.evaluation, self._workbench.playback
        assert evaluation is not None and playback is not None
        theme, progress = self._workbench.theme, self._workbench.progress
        ground = self.ground
        x, bottom = ground.x(progress), self.height() - AXIS
        if not ground.axis.start - 1 <= x <= ground.axis.end + 1:
            return
        place = float(ground.places(np.array([progress]))[0])
        draw_cursor(painter, ground.axis, place, 2, bottom, QColor(theme.ink))
        driven, joint = playback.driver_value(progress), playback.leader_joint(progress)
        if driven is None or joint is None:
            return
        words = joint_value_words(evaluation, joint, driven)
        painter.setFont(font(12, strong=True))
        width = painter.fontMetrics().horizontalAdvance(words) + 14
        box = QRectF(x - width / 2, bottom + 2, width, 20)
        box.moveLeft(min(max(box.left(), LABELS - 10), self.width() - width - 2))
        painter.setPen(Qt.PenStyle.NoPen)
        for hidden in self._tick_words:
            # A number of which a part shows beside the box would be another number.
            if hidden.intersects(box.adjusted(-4, 0, 4, 0)):
                painter.fillRect(hidden, QColor(theme.panel))
        painter.setBrush(QColor(theme.ink))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QColor(theme.panel))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        if self.hasFocus():
            painter.setPen(QPen(QColor(theme.accent), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-2, -2, 2, 2), 5, 5)

    # Events --------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if x < LABELS - 12:
            self._select_lane(y)
            return
        if y < self.events_top:
            self._press_program(x, y)
            return
        self._workbench.play(False)
        held = self.handle()
        if held is not None and math.hypot(x - held[0].x(), y - held[0].y()) <= HANDLE + 3:
            up = held[1]
            scale = (up.high - up.low) / (up.end - up.start)
            self._in_hand = _Held(y, up.value(held[0].y()), scale)
            return
        if y < self.lanes_top:
            near = self._event_near(x)
            if near is not None:
                self._workbench.move_playhead(near)
                return
        self._scrubbing = True
        self._workbench.move_playhead(self.progress_of(x))

    def _press_program(self, x: float, y: float) -> None:
        """Take hold of an end, or select a stage."""
        found = self.blocks()
        block = program_rows.end_at(found, x, y)
        if block is not None:
            self._pulled = block, x
        block = block or program_rows.block_at(found, x, y)
        if block is not None and block.own:
            self._workbench.select(Selection("stage", str(block.stage)))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointed = event.position()
        x, y = event.position().x(), event.position().y()
        evaluation = self._workbench.evaluation
        if self._pulled is not None and evaluation is not None:
            block, begun = self._pulled
            edit = program_rows.dragged(evaluation, self.ground, block, x - begun)
            # What is dragged is counted from the block as it was, though the strip follows.
            if edit is not None and block.stage < len(evaluation.source.program.stages):
                self._workbench.do(edit)
            return
        if self._in_hand is not None:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._workbench.pull.to(self._in_hand.value(y, fine))
            return
        if self._scrubbing:
            self._workbench.move_playhead(self.progress_of(x))
            return
        over_end = y < self.events_top and program_rows.end_at(self.blocks(), x, y) is not None
        self.setCursor(Qt.CursorShape.SizeHorCursor if over_end else Qt.CursorShape.ArrowCursor)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._scrubbing = False
        if self._in_hand is not None:
            self._in_hand = None
            self._workbench.pull.end()
            self._renew()
        if self._pulled is not None:
            self._pulled = None
            self._workbench.finish_gesture()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.position().x() > LABELS and event.position().y() > self.events_top:
            self._window = Window()
            self._renew()

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = None
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            span = self._window.high - self._window.low
            self._window = self._window.moved(-turn / 120 * span / 8)
        else:
            about = self.ground.share(event.position().x())
            self._window = self._window.zoomed(1.0015**turn, min(max(about, 0.0), 1.0))
        self._renew()
        event.accept()

    def _lane_at(self, y: float) -> Lane | None:
        for index, lane in enumerate(self.shown):
            if self.lane_box(index).contains(QPointF(10, y)):
                return lane
        return None

    def _select_lane(self, y: float) -> None:
        lane = self._lane_at(y)
        if lane is not None and lane.finding is not None:
            self._workbench.select(Selection("finding", lane.finding))

    def spoken(self) -> list[Spoken]:
        """The lanes with what they say at the playhead, then the events."""
        evaluation = self._workbench.evaluation
        if evaluation is None:
            return []
        progress, units = self._workbench.progress, evaluation.resolved.units
        found = []
        for index, lane in enumerate(self.shown):
            value = float(np.interp(progress, lane.progress, lane.values))
            name = f"{lane.title}: {units.format(value, lane.dimension)}"
            found.append(Spoken(name, self.lane_box(index).toRect()))
        return found

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_at(QPointF(event.pos())).popup(event.globalPos())

    def menu_at(self, at: QPointF) -> QMenu:
        """What can be done to the strip where it was asked."""
        menu = QMenu(self)
        lane = self._lane_at(at.y())
        if lane is not None:
            menu.addAction(f"Hide {lane.title}", lambda: self._reorder(self.order.hide, lane))
            menu.addAction("Move up", lambda: self._reorder(self.order.move, lane, -1))
            menu.addAction("Move down", lambda: self._reorder(self.order.move, lane, 1))
            if lane.finding is not None:
                chosen = Selection("finding", lane.finding)
                menu.addAction("Show its check", lambda: self._workbench.select(chosen))
            if lane.measure:
                gone = Going(measures=frozenset((lane.measure,)))
                menu.addAction("Show it no more", lambda: self._do(Remove(gone, "Show no more")))
        hidden = self.order.hidden(self._workbench.lanes)
        if hidden:
            lanes = menu.addMenu("Show")
            for each in hidden:
                lanes.addAction(each.title, partial(self._reorder, self.order.show, each))
        menu.addSeparator()
        words = "Over progress" if self.on_time else "Over time"
        menu.addAction(words, lambda: self.show_on_time(not self.on_time))
        whole = menu.addAction("The whole motion", self._whole)
        whole.setEnabled(self._window != Window())
        return menu

    def _do(self, edit: Edit) -> None:
        self._workbench.do_once(edit)

    def _whole(self) -> None:
        self._window = Window()
        self._renew()

    def _reorder(self, change, lane: Lane, *more: int) -> None:  # type: ignore[no-untyped-def]
        change(self._workbench.lanes, lane, *more)
        self._renew()

    def _event_near(self, x: float) -> float | None:
        evaluation = self._workbench.evaluation
        if evaluation is None:
            return None
        found = events_row.marks(evaluation, self.ground, self._workbench.theme)
        near = [mark for mark in found if abs(mark.x - x) < NEAR]
        best = min(near, key=lambda mark: abs(mark.x - x), default=None)
        return best.progress if best is not None else None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._in_hand is not None:
            self._in_hand = None
            self._workbench.pull.cancel()
            return
        playback = self._workbench.playback
        if playback is None:
            return
        ends = {Qt.Key.Key_Home: playback.first, Qt.Key.Key_End: playback.last}
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Menu:
            at = QPointF(LABELS / 2, self.lane_box(0).center().y())
            self.menu_at(at).popup(self.mapToGlobal(at.toPoint()))
        elif key in ends:
            self._workbench.move_playhead(ends[key])
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            about = self.ground.share(self.x_of(self._workbench.progress))
            self._window = self._window.zoomed(1.5 if key == Qt.Key.Key_Plus else 1 / 1.5, about)
            self._renew()
        else:
            super().keyPressEvent(event)

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent):
            self._show_tip(event)
            return True
        return bool(super().event(event))  # type: ignore[arg-type]

    def _show_tip(self, event: QHelpEvent) -> None:
        evaluation = self._workbench.evaluation
        x, y = event.pos().x(), event.pos().y()
        if evaluation is None or y > self.lanes_top:
            lane = self._lane_at(y) if x < LABELS else None
            if lane is not None:
                QToolTip.showText(event.globalPos(), lane.title, self)
            return
        if y < self.events_top:
            block = program_rows.block_at(self.blocks(), x, y)
            words = [program_rows.stage_words(evaluation, block)] if block is not None else []
        else:
            found = events_row.marks(evaluation, self.ground, self._workbench.theme)
            words = [
                f"{progress_words(evaluation, mark.progress)}: {mark.words}"
                for mark in found
                if abs(mark.x - x) < NEAR
            ]
        QToolTip.showText(event.globalPos(), "\n".join(words), self)
