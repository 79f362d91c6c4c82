"""The painted lanes of the travel strip: events, curves with their bands, and the playhead."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from anakinema.findings import Outcome, event_words, joint_value_words, progress_words
from anakinema.session import Lane
from anakinema.ui.axes import Axis, draw_cursor, draw_curve, draw_level, round_values
from anakinema.ui.guarded import guarded
from anakinema.ui.stage.overlays import outcome_colour
from anakinema.ui.strip.labels import (
    ORDINARY,
    SYMBOL,
    naming_rank,
    short_label,
    shown_range,
    starts_beside,
)
from anakinema.ui.theme import font
from anakinema.ui.workbench import Selection, Workbench

LABELS = 252
RIGHT = 24
EVENTS = 30
AXIS = 24


@guarded
class Lanes(QWidget):
    """Progress on x. Click or drag to scrub, click an event or a lane's name to go there."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("lanes")
        self.setAccessibleName("travel strip")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(150)
        self._workbench = workbench
        self._picture: QPixmap | None = None
        self._scrubbing = False
        workbench.evaluated.connect(self._renew)
        workbench.lanes_ready.connect(self._renew)
        workbench.document_changed.connect(self._renew)
        workbench.theme_changed.connect(self._renew)
        workbench.playhead_moved.connect(self.update)
        workbench.selection_changed.connect(self._renew)

    def _renew(self) -> None:
        self._picture = None
        self.update()

    # Geometry ------------------------------------------------------------------------------

    @property
    def axis(self) -> Axis:
        """Progress from left to right."""
        evaluation = self._workbench.evaluation
        stages = evaluation.motion.stages if evaluation is not None else 0
        return Axis(0.0, float(max(stages, 1)), LABELS, self.width() - RIGHT)

    def x_of(self, progress: float) -> float:
        """Pixel of a progress."""
        return self.axis.pixel(progress)

    def progress_of(self, x: float) -> float:
        """Progress of a pixel."""
        return self.axis.value(x)

    def lane_box(self, index: int) -> QRectF:
        """Where a lane is drawn."""
        count = max(1, len(self._workbench.lanes))
        high = (self.height() - EVENTS - AXIS) / count
        return QRectF(0, EVENTS + index * high, self.width(), high)

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
        if self._workbench.evaluation is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._draw_playhead(painter)

    def _draw_picture(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(QColor(self._workbench.theme.panel))
        if self._workbench.evaluation is None:
            return pixmap
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw_tints(painter)
        self._draw_axis(painter)
        for index, lane in enumerate(self._workbench.lanes):
            self._draw_lane(painter, index, lane)
        self._draw_events(painter)
        self._draw_unreached(painter)
        painter.end()
        return pixmap

    def _draw_tints(self, painter: QPainter) -> None:
        """Stretches that violate a gap are tinted through all lanes."""
        evaluation = self._workbench.evaluation
        assert evaluation is not None
        for finding in evaluation.verdict.findings:
            if finding.gap is None or finding.outcome is not Outcome.FAIL:
                continue
            colour = outcome_colour(finding.outcome, self._workbench.theme)
            colour.setAlpha(34)
            for low, high in finding.gap.below:
                left, right = self.x_of(low), self.x_of(high)
                painter.fillRect(
                    QRectF(left, 0, max(right - left, 2.0), self.height() - AXIS), colour
                )

    def _draw_axis(self, painter: QPainter) -> None:
        evaluation, playback = self._workbench.evaluation, self._workbench.playback
        assert evaluation is not None and playback is not None
        painter.setFont(font(12))
        bottom = self.height() - AXIS
        stages = max(evaluation.motion.stages, 1)
        painter.setPen(QPen(QColor(self._workbench.theme.line), 1))
        painter.drawLine(QPointF(LABELS, EVENTS), QPointF(self.width() - RIGHT, EVENTS))
        last_label = -1e9
        for stage in range(stages):
            start, end = playback.stage_span(stage)
            joint = playback.leader_joint(stage + 0.5)
            if joint is None or start == end:
                continue
            wide = self.x_of(stage + 1) - self.x_of(stage)
            ticks = round_values(start, end, bool(evaluation.motion.mechanism.angular[joint]), wide)
            for value in ticks if end > start else reversed(ticks):
                x = self.x_of(stage + (value - start) / (end - start))
                painter.setPen(QPen(QColor(self._workbench.theme.line), 1))
                painter.drawLine(QPointF(x, EVENTS), QPointF(x, bottom))
                words = short_label(joint_value_words(evaluation, joint, value))
                box = QRectF(x - 40, bottom + 3, 80, 18)
                if x - last_label > 46:
                    painter.setPen(QColor(self._workbench.theme.quiet))
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
                    last_label = x
            if stage:
                painter.setPen(QPen(QColor(self._workbench.theme.quiet), 1, Qt.PenStyle.DashLine))
                x = self.x_of(stage)
                painter.drawLine(QPointF(x, 4), QPointF(x, bottom))

    def _draw_lane(self, painter: QPainter, index: int, lane: Lane) -> None:
        box = self.lane_box(index)
        painter.setPen(QPen(QColor(self._workbench.theme.line), 1))
        painter.drawLine(QPointF(0, box.bottom()), QPointF(self.width() - RIGHT, box.bottom()))
        low, high = shown_range(lane)
        inner = box.adjusted(0, 5, 0, -5)

        up = Axis(low, high, inner.bottom(), inner.top())
        colour = outcome_colour(lane.outcome, self._workbench.theme)
        if lane.outcome is Outcome.PASS:
            colour = QColor(self._workbench.theme.accent)
        for bound, below in ((lane.least, True), (lane.greatest, False)):
            if bound is None or not low <= bound <= high:
                continue
            y = up.pixel(bound)
            forbidden = QColor(self._workbench.theme.fail)
            forbidden.setAlpha(22)
            band = QRectF(LABELS, y, self.width() - RIGHT - LABELS, inner.bottom() + 5 - y)
            if not below:
                band = QRectF(LABELS, box.top(), band.width(), y - box.top())
            painter.fillRect(band, forbidden)
            draw_level(painter, self.axis, up, bound, QColor(self._workbench.theme.fail))
        draw_curve(painter, self.axis, up, lane.progress, lane.values, colour)

    def _draw_events(self, painter: QPainter) -> None:
        painter.setFont(font(12))
        painter.setPen(QColor(self._workbench.theme.quiet))
        painter.drawText(
            QRectF(14, 0, LABELS - 20, EVENTS), Qt.AlignmentFlag.AlignVCenter, "Events"
        )
        marks = self._marks()
        painter.setPen(Qt.PenStyle.NoPen)
        middle = EVENTS / 2
        for x, title, _, colour in marks:
            painter.setBrush(colour)
            if title == "extreme":
                painter.drawEllipse(QPointF(x, middle), 3.4, 3.4)
            else:
                painter.drawPolygon(
                    QPolygonF(
                        [
                            QPointF(x, middle - 6),
                            QPointF(x + 6, middle),
                            QPointF(x, middle + 6),
                            QPointF(x - 6, middle),
                        ]
                    )
                )
        painter.setPen(QColor(self._workbench.theme.ink))
        symbols = [mark[0] for mark in marks]
        stated: list[tuple[float, float]] = []
        # What matters most is named first; the list and tooltips name what finds no room.
        for x, _, words, _ in sorted(marks, key=lambda mark: naming_rank(mark[1])):
            width = painter.fontMetrics().horizontalAdvance(words)
            for start in starts_beside(symbols, x, width):
                end = start + width
                inside = start > LABELS - 40 and end < self.width() - 4
                hides = any(start - SYMBOL < x < end + SYMBOL for x in symbols)
                if inside and not hides and all(end < low or high < start for low, high in stated):
                    box = QRectF(start, 0, width + 4, EVENTS)
                    painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
                    stated.append((start - 8, end + 8))
                    break

    def _marks(self) -> list[tuple[float, str, str, QColor]]:
        """Pixel, kind, words and colour of all marks, events at one place stated together."""
        evaluation = self._workbench.evaluation
        assert evaluation is not None
        colours = {
            "extreme": self._workbench.theme.quiet,
            "change point": self._workbench.theme.warn,
        }
        colours |= dict.fromkeys(ORDINARY, self._workbench.theme.accent)
        marks = [
            (
                self.x_of(e.progress),
                e.kind.value,
                event_words(evaluation, e),
                QColor(colours.get(e.kind.value, self._workbench.theme.fail)),
            )
            for e in evaluation.motion.events
        ]
        for finding in evaluation.verdict.findings:
            if finding.gap is not None and finding.kind == "gap":
                colour = outcome_colour(finding.outcome, self._workbench.theme)
                marks.append((self.x_of(finding.gap.progress), "closest", "closest", colour))
        return sorted(marks, key=lambda mark: (mark[0], mark[1] == "extreme"))

    def _draw_unreached(self, painter: QPainter) -> None:
        """What lies beyond the end of the motion is hatched."""
        evaluation = self._workbench.evaluation
        assert evaluation is not None
        end = self.axis.high
        if evaluation.motion.last >= end - 1e-9:
            return
        left = self.x_of(evaluation.motion.last)
        box = QRectF(left, EVENTS, self.x_of(end) - left, self.height() - AXIS - EVENTS)
        painter.fillRect(box, QColor(self._workbench.theme.deep))
        painter.fillRect(box, Qt.BrushStyle.BDiagPattern)
        painter.setPen(QColor(self._workbench.theme.fail))
        painter.setFont(font(12, strong=True))
        painter.drawText(box.adjusted(8, 4, -4, 0), 0, "not reached")

    def _draw_playhead(self, painter: QPainter) -> None:
        evaluation, playback = self._workbench.evaluation, self._workbench.playback
        assert evaluation is not None and playback is not None
        progress = self._workbench.progress
        for index, lane in enumerate(self._workbench.lanes):
            box = self.lane_box(index)
            painter.setFont(font(13))
            painter.setPen(QColor(self._workbench.theme.ink))
            value = float(np.interp(progress, lane.progress, lane.values))
            words = evaluation.resolved.units.format(value, lane.dimension)
            painter.setFont(font(13, strong=True))
            width = painter.fontMetrics().horizontalAdvance(words)
            right = QRectF(LABELS - 16 - width, box.top(), width, box.height())
            failed = lane.outcome is Outcome.FAIL
            painter.setPen(
                QColor(self._workbench.theme.fail if failed else self._workbench.theme.ink)
            )
            painter.drawText(right, Qt.AlignmentFlag.AlignVCenter, words)
            painter.setFont(font(13))
            painter.setPen(QColor(self._workbench.theme.ink))
            name = QRectF(14, box.top(), LABELS - 40 - width, box.height())
            title = painter.fontMetrics().elidedText(
                lane.title, Qt.TextElideMode.ElideRight, int(name.width())
            )
            painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, title)
        x = self.x_of(progress)
        bottom = self.height() - AXIS
        draw_cursor(painter, self.axis, progress, 2, bottom, QColor(self._workbench.theme.ink))
        driven = playback.driver_value(progress)
        joint = playback.leader_joint(progress)
        if driven is None or joint is None:
            return
        words = joint_value_words(evaluation, joint, driven)
        painter.setFont(font(12, strong=True))
        width = painter.fontMetrics().horizontalAdvance(words) + 14
        box = QRectF(x - width / 2, bottom + 2, width, 20)
        box.moveLeft(min(max(box.left(), LABELS - 10), self.width() - width - 2))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.fillRect(box.adjusted(-22, 0, 22, 0), QColor(self._workbench.theme.panel))
        painter.setBrush(QColor(self._workbench.theme.ink))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QColor(self._workbench.theme.panel))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        if self.hasFocus():
            painter.setPen(QPen(QColor(self._workbench.theme.accent), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-2, -2, 2, 2), 5, 5)

    # Events --------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        if x < LABELS - 12:
            self._select_lane(y)
            return
        self._workbench.play(False)
        if y < EVENTS:
            near = self._event_near(x)
            if near is not None:
                self._workbench.move_playhead(near)
                return
        self._scrubbing = True
        self._workbench.move_playhead(self.progress_of(x))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._scrubbing:
            self._workbench.move_playhead(self.progress_of(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._scrubbing = False

    def _select_lane(self, y: float) -> None:
        for index, lane in enumerate(self._workbench.lanes):
            if self.lane_box(index).contains(QPointF(10, y)) and lane.finding is not None:
                self._workbench.select(Selection("finding", lane.finding))

    def _event_near(self, x: float) -> float | None:
        evaluation = self._workbench.evaluation
        if evaluation is None:
            return None
        places = [e.progress for e in evaluation.motion.events]
        places += [f.gap.progress for f in evaluation.verdict.findings if f.gap is not None]
        near = [p for p in places if abs(self.x_of(p) - x) < 9]
        return min(near, key=lambda p: abs(self.x_of(p) - x), default=None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        playback = self._workbench.playback
        if playback is None:
            return
        ends = {Qt.Key.Key_Home: playback.first, Qt.Key.Key_End: playback.last}
        key = Qt.Key(event.key())
        if key in ends:
            self._workbench.move_playhead(ends[key])
        else:
            super().keyPressEvent(event)

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent):
            self._show_tip(event)
            return True
        return bool(super().event(event))  # type: ignore[arg-type]

    def _show_tip(self, event: QHelpEvent) -> None:
        evaluation = self._workbench.evaluation
        if evaluation is None or event.pos().y() > EVENTS:
            return
        words = [
            f"{progress_words(evaluation, e.progress)}: {event_words(evaluation, e)}"
            for e in evaluation.motion.events
            if abs(self.x_of(e.progress) - event.pos().x()) < 9
        ]
        QToolTip.showText(event.globalPos(), "\n".join(words), self)
