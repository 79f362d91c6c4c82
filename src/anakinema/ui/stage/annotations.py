"""What is said on a picture of the mechanism, flat or in depth: findings, kept paths and poses,
what is held, dimensions, what the tool in hand is about to do."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from anakinema.analysis import Gap, ends_of_travel
from anakinema.authoring import Trace, kept_paths, measures_now, traced_point
from anakinema.document import spec_of
from anakinema.findings import Evaluation, Finding, Miniature, Outcome, value_words
from anakinema.session import poses_at
from anakinema.ui.stage import overlays
from anakinema.ui.stage.bodies import BodyPainter
from anakinema.ui.stage.levels import Levels
from anakinema.ui.stage.mass import MassPath
from anakinema.ui.stage.traces import draw_trace, draw_traced_point
from anakinema.ui.theme import font
from anakinema.ui.workbench import Workbench


class Annotations:
    """Draws them; keeps what takes long to find."""

    def __init__(self, workbench: Workbench) -> None:
        self.workbench = workbench
        self.mass = MassPath(workbench)
        self._traces: tuple[Evaluation, tuple[Trace, ...]] | None = None
        self._closest: tuple[object, np.ndarray] | None = None
        self._compared: tuple[Miniature, BodyPainter] | None = None

    def finding(self) -> Finding | None:
        """The finding drawn: the selected one, in Check else the worst that has a gap."""
        bench = self.workbench
        evaluation, selection = bench.evaluation, bench.selection
        scene = bench.scene
        if evaluation is None or scene is None or evaluation.resolved is not scene.resolved:
            return None
        findings = evaluation.verdict.findings
        if selection.kind == "finding":
            return next((f for f in findings if f.id == selection.id), None)
        if bench.station != "Check" or selection.kind:
            return None
        bad = (Outcome.FAIL, Outcome.WARN)
        return next((f for wanted in bad for f in findings if f.outcome is wanted and f.gap), None)

    def draw_extremes(self, painter: QPainter, levels: Levels, bodies: BodyPainter) -> None:
        """Where what a travel finding asks about turns back, as outlines."""
        finding, evaluation = self.finding(), self.workbench.evaluation
        if finding is None or finding.joint is None or finding.kind != "travel":
            return
        assert evaluation is not None
        body = int(evaluation.mechanism.table.second[finding.joint])
        if body in levels.beyond:
            return
        ink = QColor(self.workbench.theme.quiet)
        values = evaluation.motion.values[:, finding.joint]
        for row in (int(np.argmin(values)), int(np.argmax(values))):
            poses = evaluation.motion.poses[row]
            bodies.draw_ghost(painter, levels.of(body), poses, {body}, ink)

    def draw(
        self,
        painter: QPainter,
        levels: Levels,
        bodies: BodyPainter,
        poses: np.ndarray,
        scale: float,
        area: QRectF,
    ) -> None:
        """All that lies over bodies at poses (B, 3), ``scale`` pixels for each mm, kept within an
        area of pixels."""
        bench = self.workbench
        scene, evaluation = bench.scene, bench.evaluation
        if scene is None:
            return
        is_whole = evaluation is not None and evaluation.resolved is scene.resolved
        self._draw_held(painter, levels, bodies, poses)
        if is_whole:
            self._draw_traces(painter, levels)
            self.mass.draw(painter, levels.of(None), poses)
        for _, words, one, two in measures_now(scene, poses):
            lift = 26.0 + 8.0 * scale
            ends = levels.spot(one, poses), levels.spot(two, poses)
            overlays.draw_travel(painter, ends, words, bench.theme, lift)
        finding = self.finding()
        gap = finding.gap if finding is not None else None
        in_space = gap is not None and len(gap.first_point) == 3
        if gap is not None and not in_space and set(_pair(gap)) & levels.beyond:
            finding = None
        if finding is not None and finding.kind == "travel":
            self._draw_travel(painter, levels, finding, scale)
        if finding is not None and finding.gap is not None and evaluation is not None:
            self._draw_closest_pose(painter, levels, bodies, finding)
            if in_space:
                there = self._closest_poses(evaluation, finding.gap)
                ends = (
                    levels.spot(finding.gap.first_point, there),
                    levels.spot(finding.gap.second_point, there),
                )
            else:
                view = levels.between(*_pair(finding.gap))
                points = finding.gap.first_point, finding.gap.second_point
                ends = view.map(QPointF(*points[0])), view.map(QPointF(*points[1]))
            overlays.draw_gap(painter, ends, evaluation, finding, bench.theme, area)
        self._draw_compared(painter, levels)
        self._draw_kept_poses(painter, levels, bodies)

    def draw_note(self, painter: QPainter, area: QRectF) -> None:
        """Whether what is on show is the last word."""
        bench = self.workbench
        scene, evaluation = bench.scene, bench.evaluation
        note = ""
        if evaluation is not None and scene is not None and evaluation.resolved is scene.resolved:
            note = "" if evaluation.is_exact else "first look, refining…"
        if bench.trouble is not None and not bench.is_current:
            note = "shown as before the fault"
        painter.setFont(font(12))
        painter.setPen(QColor(bench.theme.quiet))
        painter.drawText(area.adjusted(12, 10, -12, -10), Qt.AlignmentFlag.AlignRight, note)

    def draw_hint(self, painter: QPainter, words: str, area: QRectF) -> None:
        """What the tool in hand is about to do, at the foot."""
        if not words:
            return
        painter.setFont(font(13))
        width = painter.fontMetrics().horizontalAdvance(words) + 28
        box = QRectF(area.center().x() - width / 2, area.bottom() - 40, width, 28)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.workbench.theme.ink))
        painter.drawRoundedRect(box, 14, 14)
        painter.setPen(QColor(self.workbench.theme.panel))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def draw_name(self, painter: QPainter, hovered: int | None) -> None:
        """The name of the body under the pointer."""
        scene = self.workbench.scene
        if hovered is None or scene is None or self.workbench.tool:
            return
        if hovered >= len(scene.resolved.document.bodies):
            return
        body = scene.resolved.document.bodies[hovered]
        words = f"{body.title}{', fixed' if body.fixed else ''}"
        painter.setFont(font(13))
        width = painter.fontMetrics().horizontalAdvance(words) + 16
        box = QRectF(12, 12, width, 24)
        painter.setPen(QPen(QColor(self.workbench.theme.line), 1))
        painter.setBrush(QColor(self.workbench.theme.card))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(QColor(self.workbench.theme.ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _draw_compared(self, painter: QPainter, levels: Levels) -> None:
        """The trial that is selected, as outlines at the same share of its time."""
        shown, playback = self.workbench.comparison.shown, self.workbench.playback
        if shown is None or playback is None:
            return
        if self._compared is None or self._compared[0] is not shown:
            self._compared = shown, BodyPainter(shown.resolved)
        share = playback.time_at(self.workbench.progress) / max(playback.duration, 1e-9)
        row = min(round(share * (len(shown.poses) - 1)), len(shown.poses) - 1)
        every = set(range(shown.poses.shape[1])) - levels.beyond
        ink = QColor(self.workbench.theme.accent)
        self._compared[1].draw_ghost(painter, levels.of(None), shown.poses[row], every, ink)

    def _draw_kept_poses(self, painter: QPainter, levels: Levels, bodies: BodyPainter) -> None:
        """Poses that are kept as ghosts, with their names."""
        bench = self.workbench
        assert bench.scene is not None
        moving = {k for k, b in enumerate(bench.scene.resolved.document.bodies) if not b.fixed}
        moving -= levels.beyond
        ink = QColor(bench.theme.quiet)
        for pose in bench.session.document.poses:
            found = bench.poses.standing(pose) if pose.ghost else None
            if found is None or len(found.poses) != bodies.count:
                continue
            bodies.draw_ghost(painter, levels.of(None), found.poses, moving, ink)
            boxes = {k: b for k in moving if (b := bodies.extent(k, found.poses)) is not None}
            if boxes:
                body, high = max(boxes.items(), key=lambda item: item[1].bottom())
                painter.setFont(font(12))
                painter.setPen(ink)
                at = levels.of(body).map(QPointF(high.center().x(), high.bottom()))
                painter.drawText(at, pose.title)

    def _draw_traces(self, painter: QPainter, levels: Levels) -> None:
        """Kept paths; of the one that is selected, or whose body is, how its point moves now."""
        bench, evaluation = self.workbench, self.workbench.evaluation
        assert evaluation is not None and bench.scene is not None
        kept = self._traces
        if kept is None or kept[0] is not evaluation:
            kept = self._traces = evaluation, kept_paths(evaluation)
        selection, paths = bench.selection, kept[1]
        for trace in paths:
            index = bench.scene.index(trace.place.body)
            if index in levels.beyond:
                continue
            view = levels.of(index)
            draw_trace(painter, view, trace, bench.theme)
            chosen = (selection.kind, selection.id) == ("measure", trace.id)
            if chosen or trace.place.body in selection.bodies:
                now = traced_point(evaluation, trace, bench.progress)
                if now is not None:
                    units = evaluation.resolved.units
                    draw_traced_point(painter, view, trace, now, bench.theme, units)

    def _draw_held(
        self, painter: QPainter, levels: Levels, bodies: BodyPainter, poses: np.ndarray
    ) -> None:
        """A peg on every body that is held for the moment."""
        scene = self.workbench.scene
        assert scene is not None
        for body in self.workbench.held:
            index = scene.index(body)
            extent = bodies.extent(index, poses) if index is not None else None
            if extent is None or index in levels.beyond:
                continue
            box = QRectF(0, 0, 40, 18)
            box.moveCenter(levels.of(index).map(extent.center()))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(self.workbench.theme.ink))
            painter.drawRoundedRect(box, 9, 9)
            painter.setFont(font(12, strong=True))
            painter.setPen(QColor(self.workbench.theme.panel))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "held")

    def _draw_closest_pose(
        self, painter: QPainter, levels: Levels, bodies: BodyPainter, finding: Finding
    ) -> None:
        """The two bodies as outlines where they are closest, unless that is the present pose."""
        evaluation, gap = self.workbench.evaluation, finding.gap
        assert evaluation is not None and gap is not None
        if abs(gap.progress - self.workbench.progress) < 1e-3:
            return
        poses = self._closest_poses(evaluation, gap)
        colour = overlays.outcome_colour(finding.outcome, self.workbench.theme)
        view = levels.between(*_pair(gap))
        for body in dict.fromkeys(_pair(gap)):
            seen = levels.plane_of(body, poses) if body in levels.beyond else view
            bodies.draw_ghost(painter, seen, poses, {body}, colour)
        if gap.belt is not None:
            overlays.draw_belt_ghost(painter, view, evaluation.resolved, poses, gap.belt, colour)

    def _closest_poses(self, evaluation: Evaluation, gap: Gap) -> np.ndarray:
        """(B, 3) where two bodies are closest."""
        key = (evaluation, gap.progress)
        if self._closest is None or self._closest[0] != key:
            self._closest = (key, poses_at(evaluation, gap.progress))
        return self._closest[1]

    def _draw_travel(
        self, painter: QPainter, levels: Levels, finding: Finding, scale: float
    ) -> None:
        evaluation = self.workbench.evaluation
        if evaluation is None or finding.joint is None:
            # What cannot be judged has no travel.
            return
        joint = evaluation.document.joints[finding.joint]
        second = int(evaluation.mechanism.table.second[finding.joint])
        if not spec_of(joint.kind).is_straight or second in levels.beyond:
            return
        ends = ends_of_travel(evaluation.motion, finding.joint)
        words = f"travel {value_words(evaluation, finding)}"
        lift = 34 * max(1.0, scale)
        view = levels.of(second)
        one, two = (view.map(QPointF(*end)) for end in ends)
        overlays.draw_travel(painter, (one, two), words, self.workbench.theme, lift)


def _pair(gap: Gap) -> tuple[int, int]:
    return gap.first_body, gap.second_body
