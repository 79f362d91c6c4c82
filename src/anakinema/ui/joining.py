"""The join being made: what is picked, what is wished, and what it would come to, live."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QObject, Signal

from anakinema.authoring import (
    PlacedSnap,
    Proposal,
    Wish,
    is_across,
    level_wish,
    likely_kind,
    likely_radius,
    proposals,
)
from anakinema.document import spec_of
from anakinema.document.model import JointKind
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.ui.workbench import Selection, Workbench
from anakinema.ui.worker import Worker


class JoinDraft(QObject):
    """Two snaps and a wish. Every change asks anew; the newest answer is shown as a ghost."""

    changed = Signal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__(workbench)
        self._workbench = workbench
        self.first: PlacedSnap | None = None
        self.wish: Wish | None = None
        self.proposal: Proposal | None = None
        self.trouble: AnakinemaError | None = None
        self._picked_in: object = None
        self._worker = Worker("join", self)
        self._worker.answered.connect(self._answered)
        self._worker.broke.connect(
            lambda _, words: workbench.report(f"The join could not be worked out ({words}).")
        )
        workbench.tool_changed.connect(self._tool_changed)
        workbench.scene_changed.connect(self._scene_changed)

    @property
    def is_active(self) -> bool:
        """Whether the join tool is in hand."""
        return self._workbench.tool == "join"

    def pick(self, snap: PlacedSnap) -> None:
        """Take a snap: the first of the body that comes, then that of the body it comes to."""
        self._picked_in = self._workbench.session.document
        if self.first is None or self.wish is not None:
            self.first, self.wish, self.proposal, self.trouble = snap, None, None, None
            self._workbench.show_trial(None)
        elif snap.body == self.first.body:
            self.first = snap
            self.trouble = ValueOutOfRangeError(
                "both places are on the same part.",
                where="join",
                remedy="Pick a place of another part; the first is taken anew.",
            )
        elif (joint := self._joined_already(self.first, snap)) is not None:
            self.trouble = ValueOutOfRangeError(
                f"these two places are joined already, by {joint}.",
                where="join",
                remedy="Click that joint to change its kind, or pick another place.",
            )
        else:
            self.trouble = None
            kind = self._kind(self.first, snap)
            radius = self._radius(kind, self.first, snap)
            self.wish = Wish(
                self.first, snap, kind, radius=radius, stack=level_wish(self.first, snap)
            )
            self._ask()
        self.changed.emit()

    def _joined_already(self, first: PlacedSnap, second: PlacedSnap) -> str | None:
        """Title of the joint that holds the very same two places."""
        scene = self._workbench.scene
        places = {(s.body, s.snap.place.id) for s in (first, second)}
        joints = scene.resolved.document.joints if scene is not None else ()
        for joint in joints:
            if {(side.body, side.place) for side in (joint.first, joint.second)} == places:
                return joint.title
        return None

    def set_wish(self, **values: object) -> None:
        """Wish something else: kind, manner, flip, turn, offset, radius, stack or branch."""
        if self.wish is None:
            return
        wish = replace(self.wish, **values)  # type: ignore[arg-type]
        if "kind" in values and spec_of(wish.kind).has_radius and wish.radius is None:
            wish = replace(wish, radius=self._radius(wish.kind, wish.first, wish.second))
        if wish != self.wish:
            self.wish = wish
            self._ask()
            self.changed.emit()

    def swap(self) -> None:
        """Let the other body come."""
        if self.wish is not None:
            wish = self.wish
            self.set_wish(first=wish.second, second=wish.first)

    def _kind(self, first: PlacedSnap, second: PlacedSnap) -> JointKind:
        """What two snaps suggest; between planes there is only a rod."""
        scene = self._workbench.scene
        if scene is not None and is_across(scene.resolved, first, second):
            return "ball_rod"
        return likely_kind(first, second)

    def _radius(self, kind: JointKind, first: PlacedSnap, second: PlacedSnap) -> float | None:
        scene = self._workbench.scene
        if not spec_of(kind).has_radius or scene is None:
            return None
        return likely_radius(scene.resolved, first, second)

    def _ask(self) -> None:
        scene, wish = self._workbench.rest(), self.wish
        if scene is not None and wish is not None:
            self._worker.request(lambda: proposals(scene, wish))

    def _answered(self, number: int, answer: object) -> None:
        if number != self._worker.newest or self.wish is None:
            return
        if isinstance(answer, AnakinemaError):
            self.proposal, self.trouble = None, answer
            self._workbench.show_trial(None)
        elif isinstance(answer, Proposal):
            self.proposal, self.trouble = answer, None
        self.changed.emit()

    def commit(self) -> bool:
        """Make the join; False if there is nothing sound to make."""
        proposal = self.proposal
        if proposal is None or not proposal.is_closed or proposal.wish != self.wish:
            return False
        self._workbench.do_once(proposal.edit)
        self._workbench.use_tool("")
        self._workbench.select(Selection("joint", proposal.joint.id))
        return True

    def cancel(self) -> None:
        """Put the tool down, or first the snap picked."""
        if self.first is not None:
            self.clear()
            self.changed.emit()
        else:
            self._workbench.use_tool("")

    def clear(self) -> None:
        """Forget what is picked."""
        self._worker.cancel()
        self.first, self.wish, self.proposal, self.trouble = None, None, None, None
        self._workbench.show_trial(None)

    def ghost_poses(self) -> list[np.ndarray]:
        """Poses to show as ghosts: what would come about first, then the other assembly."""
        if self.proposal is None:
            return []
        return [self.proposal.poses, *self.proposal.ghosts]

    def _tool_changed(self) -> None:
        self.clear()
        self.changed.emit()

    def _scene_changed(self) -> None:
        # Poses and parts may have changed under the snaps picked (undo, another edit); the same
        # document drawn once more has not.
        scene = self._workbench.scene
        same = scene is not None and scene.resolved.source is self._picked_in
        if self.first is not None and self.is_active and not same:
            self.clear()
            self.changed.emit()

    def stop(self) -> None:
        """End the thread."""
        self._worker.stop()
