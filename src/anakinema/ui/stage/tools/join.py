"""Join by picking two places; what it would come to is shown as ghosts before it is made."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, Qt, QTimer
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QTransform

from anakinema.authoring import PlacedSnap, Proposal
from anakinema.geometry import turned_about
from anakinema.ui.stage.surface import Pointer, Surface
from anakinema.ui.stage.tools.base import SnapFinder, Tool, draw_snap, draw_words
from anakinema.ui.theme import Theme

WAG = 60
"""ms between two frames of the little movement that shows what a joint allows."""


class JoinTool(Tool):
    """First place, second place; Enter joins, O takes the other assembly, Esc goes back."""

    wants_tab = True

    def __init__(self, stage: Surface) -> None:
        super().__init__(stage)
        self._draft = stage.drafts.join
        self._finder = SnapFinder(stage)
        self._at: Pointer | None = None
        self._phase = 0.0
        self._timer = QTimer()
        self._timer.setInterval(WAG)
        self._timer.timeout.connect(self._wag)
        self._draft.changed.connect(self._changed)

    @property
    def snap(self) -> PlacedSnap | None:
        """The snap under the pointer."""
        return self._finder.snap

    @property
    def hint(self) -> str:  # type: ignore[override]
        """The step at hand."""
        draft = self._draft
        if draft.wish is None and draft.trouble is not None:
            return draft.trouble.what
        if draft.first is None:
            return "Pick a place on the part that comes"
        if draft.wish is None:
            return "Pick the place it comes to"
        if draft.proposal is None:
            return "" if draft.trouble is None else draft.trouble.what
        if not draft.proposal.is_closed:
            return "The loop cannot close like this"
        words = "Enter makes the join"
        return words + (", O takes the other assembly" if draft.proposal.ghosts else "")

    def _changed(self) -> None:
        wants = self._draft.proposal is not None and self._draft.proposal.is_closed
        if wants != self._timer.isActive():
            (self._timer.start if wants else self._timer.stop)()
        self.stage.update()

    def _wag(self) -> None:
        self._phase += 0.35
        self.stage.update()

    def leave(self) -> None:
        self._timer.stop()
        self._draft.changed.disconnect(self._changed)

    def press(self, at: Pointer) -> bool:
        self._finder.look(at, self._without())
        snap = self._finder.snap
        if snap is None:
            return False
        self._draft.pick(snap)
        return True

    def _without(self) -> frozenset[str]:
        draft = self._draft
        picking_second = draft.first is not None and draft.wish is None
        return frozenset((draft.first.body,)) if picking_second and draft.first else frozenset()

    def move(self, at: Pointer) -> None:
        self._at = at
        self._finder.look(at, self._without())
        self.stage.update()

    def key(self, event: QKeyEvent) -> bool:
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self._draft.cancel()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._draft.commit()
        elif key == Qt.Key.Key_Tab:
            self._finder.cycle()
            self.stage.update()
        elif key == Qt.Key.Key_O and self._draft.wish is not None:
            self._draft.set_wish(branch=1 - self._draft.wish.branch)
        elif key == Qt.Key.Key_P and self._draft.wish is not None:
            self._draft.set_wish(flip=not self._draft.wish.flip)
        else:
            return False
        return True

    def paint(self, painter: QPainter, view: QTransform, theme: Theme) -> None:
        draft = self._draft
        proposal = draft.proposal
        if proposal is not None and proposal.is_closed:
            self._paint_ghosts(painter, view, proposal, theme)
        for snap in (draft.first, draft.wish.second if draft.wish else None):
            if snap is not None:
                draw_snap(painter, self.stage.levels, snap, theme)
        if draft.wish is None and self._finder.snap is not None:
            draw_snap(painter, self.stage.levels, self._finder.snap, theme, self._finder.words)

    def _paint_ghosts(
        self, painter: QPainter, view: QTransform, proposal: Proposal, theme: Theme
    ) -> None:
        bodies = self.stage.bodies
        if bodies is None or len(proposal.poses) != bodies.count:
            return
        moved, heights = set(proposal.moved), proposal.resolved.heights
        inks = (QColor(theme.accent), QColor(theme.quiet))
        for poses, ink in zip(self._draft.ghost_poses(), inks, strict=False):
            bodies.draw_ghost(painter, view, poses, moved, ink, heights)
        wish = proposal.wish
        index = [b.id for b in proposal.resolved.document.bodies].index(wish.first.body)
        pose = proposal.poses[index].copy()
        swing = math.sin(self._phase)
        at = (wish.second.x, wish.second.y)
        if wish.kind == "revolute":
            turn = 0.12 * swing
            pose[:2] = turned_about(at, pose, turn)
            pose[2] += turn
        elif wish.kind in ("prismatic", "pin_in_slot"):
            slide = 10.0 * swing / self.stage.view.scale
            pose[0] += slide * math.cos(wish.second.angle)
            pose[1] += slide * math.sin(wish.second.angle)
        ghost = proposal.poses.copy()
        ghost[index] = pose
        bodies.draw_ghost(painter, view, ghost, {index}, inks[0], heights)
        if proposal.ghosts:
            other = proposal.ghosts[0]
            extent = bodies.extent(index, other)
            if extent is not None:
                place = view.map(extent.center())
                draw_words(painter, place + QPointF(10, -10), "other assembly (O)", theme)
