"""The tool at rest: click selects, drag tries the mechanism or carries a loose part.

One long class: every press may become a click, a trial, a carrying, a grip or a frame, and which it
is shows only while the pointer moves.
"""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from anakinema.authoring import (
    PlacedSnap,
    Scene,
    StageGrip,
    Trial,
    is_joined,
    outermost,
    sound,
    stage_grips,
    started_at,
)
from anakinema.edits import SetPoses
from anakinema.session import HandDrive
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap, draw_words
from anakinema.ui.theme import Theme
from anakinema.ui.workbench import Selection

CLICK = 4
"""Pixels that the pointer may move in a click."""


GRIP = 8
"""Pixels within which a grip is taken hold of."""
NUDGES = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}


class SelectTool(Tool):
    """Drag a joined body to try; release puts it back, V before or after keeps the pose.

    The one body that is selected has grips: dragging one changes a dimension of its part. By
    keyboard, Alt and arrows pull it or carry it; Esc or Enter lets go.
    """

    def __init__(self, stage: Surface) -> None:
        super().__init__(stage)
        self._down: Pointer | None = None
        self._now: Pointer | None = None
        self._body: str | None = None
        self._trial: Trial | None = None
        self._carried: tuple[str, ...] = ()
        self._tried: tuple[Scene, np.ndarray] | None = None
        self._box = False
        self._grip: StageGrip | None = None
        self._over: StageGrip | None = None
        self._target: tuple[float, float] | None = None
        self._hand: HandDrive | None = None
        self._held: PlacedSnap | None = None
        self._finder = SnapFinder(stage)
        self._meets: PlacedSnap | None = None

    @property
    def hint(self) -> str:  # type: ignore[override]
        """What the gesture under way will do."""
        if self._meets is not None:
            return "Let go to join the two places."
        if self._hand is not None:
            return "Driving by hand: it stays where it is let go."
        if self._trial is not None:
            held = self._trial.held_by
            if held:
                return f"Held by the limit of {' and '.join(held)}"
            return f"{'Let go' if self._target is None else 'Esc'}: it returns. V keeps the pose."
        if self._carried:
            return "Placing. Esc puts it back."
        if self._grip is not None:
            return "Changing the part, wherever it is used. Esc puts it back."
        if self._tried is not None:
            return "Back where it was. V keeps the pose just tried."
        return ""

    @property
    def is_trying(self) -> bool:
        """Whether a mechanism is being dragged just now."""
        return self._trial is not None

    def press(self, at: Pointer) -> bool:
        self._let_go()
        self._down = self._now = at
        self._tried = None
        self._body = self.stage.body_at(at.pixel)
        self._held, self._meets = self._snap_at(at), None
        self._grip = self.grip_at(at.pixel)
        if self._grip is not None and self._is_nearer(self._grip, at):
            self._held = None
            return True
        self._grip = None
        if self._held is not None:
            # A part is taken hold of by its hole as well.
            self._body = self._held.body
        if self._body is None and at.shift:
            self._box = True
            return True
        if self._body is not None and self.workbench.station == "Drive":
            self._hand = self._hand_on(at)
            return self._hand is not None
        return self._body is not None and self.workbench.station == "Assemble"

    def _snap_at(self, at: Pointer) -> PlacedSnap | None:
        """The place right under the pointer, which a drag may join by: of the body that is pressed
        if it has one there, else of one that moves."""
        scene = self.workbench.scene
        if scene is None or self.workbench.station != "Assemble":
            return None
        found = self.stage.snaps_at(at, GRIP)
        fixed = {body.id for body in scene.resolved.document.bodies if body.fixed}
        loose = [s for s in found if s.body not in self.workbench.hidden | fixed]
        return min(loose, key=lambda snap: snap.body != self._body, default=None)

    def _is_nearer(self, grip: StageGrip, at: Pointer) -> bool:
        """Whether a grip is meant, and not the place of a loose part that is about as near."""
        scene, held = self.workbench.scene, self._held
        if scene is None or held is None or is_joined(scene.resolved, held.body):
            return True
        return math.hypot(grip.x - at.x, grip.y - at.y) < math.hypot(held.x - at.x, held.y - at.y)

    def _look_for_partner(self, at: Pointer) -> None:
        """The place of another body that what is held has been brought to."""
        scene = self.workbench.scene
        if self._held is None or scene is None:
            return
        # What it is joined to already comes along, and is no new partner.
        joined = {
            side.body
            for joint in scene.resolved.document.joints
            for side in (joint.first, joint.second)
            if self._held.body in (joint.first.body, joint.second.body)
        }
        self._finder.look(at, frozenset((*self._carried, *joined, self._held.body)))
        self._meets = self._finder.snap

    def _join(self, first: PlacedSnap, second: PlacedSnap) -> None:
        """Put back what was dragged, and propose the join of the two places."""
        bench = self.workbench
        if self._carried:
            bench.cancel_gesture()
        bench.show_trial(None)
        bench.rest()
        bench.use_tool("join")
        draft = self.stage.drafts.join
        draft.pick(first)
        draft.pick(second)

    def _hand_on(self, at: Pointer) -> HandDrive | None:
        """A hold on the pressed body, if the program moves it there."""
        bench = self.workbench
        evaluation = bench.evaluation
        if evaluation is None or bench.trial is not None:
            return None
        bodies = [body.id for body in evaluation.document.bodies]
        if self._body not in bodies:
            return None
        index = bodies.index(self._body)
        hand = HandDrive(evaluation, index, at.x, at.y, bench.progress)
        return hand if hand.moves else None

    def move(self, at: Pointer) -> None:
        self._now = at
        if self._down is None:
            over = self.grip_at(at.pixel)
            if over != self._over:
                self._over = over
                self.stage.update()
            return
        if self._grip is not None:
            self._pull(self._grip, at)
            return
        if self._hand is not None:
            away = at.pixel - self._down.pixel
            if math.hypot(away.x(), away.y()) > CLICK:
                self.workbench.play(False)
                self.workbench.move_playhead(self._hand.pull(at.x, at.y))
            return
        if self._box:
            self.stage.update()
            return
        if self._trial is None and not self._carried:
            away = at.pixel - self._down.pixel
            if math.hypot(away.x(), away.y()) <= CLICK or not self._begin():
                return
        if self._trial is not None:
            self.workbench.show_trial(self._trial.pull(at.x, at.y))
        elif self._carried:
            self._carry(at)
        self._look_for_partner(at)

    def grips(self) -> tuple[StageGrip, ...]:
        """Grips of the one body that is selected, where it stands; none while things move."""
        bench = self.workbench
        scene, poses, selection = bench.scene, bench.shown_poses(), bench.selection
        busy = self._trial is not None or bool(self._carried) or bench.is_playing
        if (
            scene is None
            or poses is None
            or busy
            or bench.station != "Assemble"
            or len(selection.bodies) != 1
        ):
            return ()
        return stage_grips(scene, poses, selection.id)

    def grip_at(self, pixel: QPointF) -> StageGrip | None:
        """The grip under a pixel."""
        best: tuple[float, StageGrip] | None = None
        for grip in self.grips():
            away = self.stage.to_pixels(grip.x, grip.y) - pixel
            far = math.hypot(away.x(), away.y())
            if far <= GRIP and (best is None or far < best[0]):
                best = far, grip
        return best[1] if best is not None else None

    def _pull(self, grip: StageGrip, at: Pointer) -> None:
        """Change the dimension; what would make the part impossible is stated and not done."""
        step = self.stage.snapped_step()
        edit = grip.dragged(at.x, at.y, step)
        trouble = sound(self.workbench.session.document, edit)
        if trouble is not None:
            self.workbench.report(trouble)
            return
        self.workbench.dismiss_trouble()
        self.workbench.do(edit)
        self.stage.update()

    def _begin(self) -> bool:
        """Find out what a drag of the pressed body means, and begin it."""
        scene, down = self.workbench.rest(), self._down
        if scene is None or down is None or self._body is None:
            return False
        index = scene.index(self._body)
        if index is None:
            return False
        body = scene.resolved.document.bodies[index]
        if is_joined(scene.resolved, body.id):
            self._trial = Trial(scene, index, down.x, down.y, self.workbench.held)
            return True
        chosen = self.workbench.selection.bodies
        group = chosen if body.id in chosen else (body.id,)
        self._carried = tuple(b for b in group if not is_joined(scene.resolved, b))
        self._from = {b: scene.poses[i] for b in self._carried if (i := scene.index(b)) is not None}
        return True

    def _carry(self, at: Pointer) -> None:
        """Loose parts go with the pointer, as one undoable gesture."""
        down = self._down
        assert down is not None
        dx, dy = self.stage.snapped(at.x - down.x), self.stage.snapped(at.y - down.y)
        poses = tuple(
            (body, float(p[0]) + dx, float(p[1]) + dy, float(p[2]))
            for body, p in self._from.items()
        )
        self.workbench.do(SetPoses(poses, "Place", "carry"))

    def release(self, at: Pointer) -> None:
        if self._grip is not None:
            self.workbench.finish_gesture()
            self._grip = None
        elif self._box:
            self._select_in_box()
        elif self._held is not None and self._meets is not None:
            held, meets = self._held, self._meets
            self._trial, self._down = None, None
            self._join(held, meets)
            self._carried, self._held, self._meets = (), None, None
            return
        elif self._trial is not None:
            self._let_go()
        elif self._carried:
            self.workbench.finish_gesture()
        elif self._down is not None:
            away = at.pixel - self._down.pixel
            if self._hand is None or math.hypot(away.x(), away.y()) <= CLICK:
                self._click(at)
        self._down, self._trial, self._carried, self._box = None, None, (), False
        self._hand = self._held = self._meets = None
        self.stage.update()

    def _click(self, at: Pointer) -> None:
        if not (at.control or at.shift):
            self.workbench.select(self.stage.thing_at(at.pixel))
            return
        # Of several, bodies alone are gathered.
        body = self.stage.body_at(at.pixel)
        if body is None:
            self.workbench.select(Selection())
            return
        selection = self.workbench.selection
        if selection.kind != "body":
            selection = Selection()
        self.workbench.select(selection.toggled(body))

    def _select_in_box(self) -> None:
        assert self._down is not None and self._now is not None
        box = QRectF(self._down.pixel, self._now.pixel).normalized()
        found = self.stage.bodies_in(box)
        if found:
            self.workbench.select(Selection("body", found[0], tuple(found[1:])))

    def _let_go(self) -> None:
        """End a trial: everything returns, and the pose tried can still be kept."""
        scene = self.workbench.scene
        if self._trial is not None:
            self._tried = (scene, self._trial.poses) if scene is not None else None
            self.workbench.show_trial(None)
        self._trial, self._target = None, None

    def interrupt(self) -> None:
        if self._target is not None:
            self._let_go()

    def _nudge(self, dx: int, dy: int) -> bool:
        """Pull the selected body by its outermost place, one step of the snap; carry loose ones."""
        bench, step = self.workbench, self.stage.snapped_step()
        selection = bench.selection
        if bench.station != "Assemble" or not selection.bodies:
            return False
        if self._trial is None or self._target is None or selection.id != self._body:
            self._let_go()
            scene = bench.rest()
            if scene is None:
                return False
            if not is_joined(scene.resolved, selection.id):
                rows = [
                    (body, float(x) + dx * step, float(y) + dy * step, float(angle))
                    for body in selection.bodies
                    if (index := scene.index(body)) is not None
                    and not is_joined(scene.resolved, body)
                    for x, y, angle in [scene.poses[index]]
                ]
                bench.do_once(SetPoses(tuple(rows), "Place", "carry"))
                return True
            index = scene.index(selection.id)
            self._target = outermost(scene, selection.id)
            if index is None or self._target is None:
                return False
            self._body, self._tried = selection.id, None
            self._trial = Trial(scene, index, *self._target, bench.held)
        x, y = self._target
        self._target = x + dx * step, y + dy * step
        bench.show_trial(self._trial.pull(*self._target))
        self.stage.update()
        return True

    def key(self, event: QKeyEvent) -> bool:
        key = Qt.Key(event.key())
        if key in NUDGES and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            return self._nudge(*NUDGES[key])
        ends = (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if self._target is not None and key in ends:
            self._let_go()
            self.stage.update()
            return True
        busy = self._trial or self._carried or self._grip
        if event.key() == Qt.Key.Key_Escape and busy:
            if self._carried or self._grip:
                self.workbench.cancel_gesture()
            self._grip = None
            self.workbench.show_trial(None)
            self._down, self._trial, self._carried, self._tried = None, None, (), None
            self._held = self._meets = None
            self.stage.update()
            return True
        return False

    def keep(self) -> bool:
        """Make the pose being tried, or tried last, the start pose; False if there is none."""
        scene = self.workbench.scene
        if scene is None:
            return False
        if self._trial is not None:
            poses = self._trial.poses
        elif self._tried is not None and self._tried[0].resolved is scene.resolved:
            poses = self._tried[1]
        else:
            return False
        self._down, self._trial, self._tried, self._target = None, None, None, None
        self.workbench.do_once(started_at(scene.resolved, poses))
        self.workbench.show_trial(None)
        return True

    def _paint_grips(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        named = self._grip or self._over
        for grip in self.grips():
            is_named = named is not None and (grip.part, grip.name) == (named.part, named.name)
            if self._grip is not None and not is_named:
                continue
            at = view.map(QPointF(grip.x, grip.y))
            painter.setPen(QPen(QColor(theme.accent), 1.6))
            painter.setBrush(QColor(theme.accent if is_named else theme.card))
            size = math.hypot(grip.dx, grip.dy)
            along = QPointF(grip.dx, -grip.dy) / size * 9
            painter.drawLine(at - along, at + along)
            painter.drawEllipse(at, 4, 4)
            if is_named and self.stage.units is not None:
                stated = self.stage.units.format(grip.value, grip.dimension)
                words = f"{grip.name.replace('_', ' ')}  {stated}"
                draw_words(painter, at + QPointF(12, -10), words, theme)

    def _pulled_to(self) -> QPointF | None:
        """The pixel that the mechanism is being pulled to."""
        if self._target is not None:
            return self.stage.to_pixels(*self._target)
        return self._now.pixel if self._now is not None and self._down is not None else None

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        self._paint_grips(painter, view, theme)
        if self._meets is not None:
            draw_snap(
                painter, self.stage.levels, self._meets, theme, f"join with {self._finder.words}"
            )
        if self._box and self._down is not None and self._now is not None:
            painter.setPen(QPen(QColor(theme.accent), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self._down.pixel, self._now.pixel).normalized())
        end = self._pulled_to()
        if self._trial is not None and end is not None:
            scene, body = self.workbench.scene, self._body
            index = None if scene is None or body is None else scene.index(body)
            if index is None or self._trial.away * self.stage.view.scale < 3:
                return
            # The pointer is out of reach: a thread shows by how much.
            grabbed = self._trial.grabbed_at()
            painter.setPen(QPen(QColor(theme.warn), 1.5, Qt.PenStyle.DashLine))
            painter.drawLine(view.map(QPointF(*grabbed)), end)
            if self._trial.held_by:
                words = f"limit of {' and '.join(self._trial.held_by)}"
                draw_words(painter, end + QPointF(14, -8), words, theme)
