"""Kept poses in the window: how each stands now, and the smooth move to one."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from anakinema.authoring import Scene, Stood, kept_pose, passes, stood, way_to
from anakinema.document import model
from anakinema.edits import Edit, Keep
from anakinema.errors import AnakinemaError
from anakinema.findings import Evaluation
from anakinema.session import Session
from anakinema.settings import Settings

FRAMES = 24
EVERY = 16
"""Pictures of a move, and ms between them."""


class Bench(Protocol):
    """What kept poses need of the workbench."""

    scene: Scene | None
    evaluation: Evaluation | None
    trial: np.ndarray | None
    session: Session

    @property
    def settings(self) -> Settings: ...

    def shown_poses(self) -> np.ndarray | None: ...
    def show_trial(self, poses: np.ndarray | None) -> None: ...
    def move_playhead(self, progress: float) -> None: ...
    def play(self, on: bool) -> None: ...
    def do_once(self, edit: Edit) -> bool: ...
    def report(self, trouble: AnakinemaError | str) -> None: ...


class KeptPoses(QObject):
    """Goes to kept poses, keeps new ones, and knows how each stands in the scene on show."""

    kept = Signal(str)
    """One more, by its id."""

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self._bench = bench
        self._stood: dict[model.KeptPose, Stood] = {}
        self._of: Scene | None = None
        self._way: list[np.ndarray] = []
        self._aim: float | None = None
        self._shown: np.ndarray | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self._step)

    def standing(self, pose: model.KeptPose) -> Stood | None:
        """How a pose of the document stands now; None while the document cannot be read."""
        scene = self._bench.scene
        if scene is None:
            return None
        if self._of is None or self._of.resolved is not scene.resolved:
            self._of, self._stood = scene, {}
        if pose not in self._stood:
            try:
                self._stood[pose] = stood(scene.resolved, pose)
            except AnakinemaError:
                return None
        return self._stood[pose]

    def keep(self) -> None:
        """Keep the pose on show, and have its name at hand."""
        scene, poses = self._bench.scene, self._bench.shown_poses()
        if scene is None or poses is None or not scene.resolved.document.bodies:
            self._bench.report("There is no pose to keep yet.")
            return
        kept = self._bench.session.document.poses
        pose = kept_pose(scene, poses, f"Pose {len(kept) + 1}", (each.id for each in kept))
        if self._bench.do_once(Keep(pose)):
            self.kept.emit(pose.id)

    def go(self, pose_id: str) -> None:
        """Move smoothly to a kept pose: to where the motion passes it, if it does."""
        bench = self._bench
        pose = next((p for p in bench.session.document.poses if p.id == pose_id), None)
        found = None if pose is None else self.standing(pose)
        scene, here = bench.scene, bench.shown_poses()
        if found is None or scene is None or here is None:
            return
        bench.play(False)
        evaluation = bench.evaluation
        is_whole = evaluation is not None and evaluation.resolved is scene.resolved
        self._aim = passes(evaluation.motion, found.poses) if evaluation and is_whole else None
        frames = 1 if bench.settings.still else FRAMES
        self._way = way_to(scene.resolved, here, found.poses, frames)
        self._step()
        if self._way:
            self._timer.start()

    def _step(self) -> None:
        if not self._way:
            self._timer.stop()
            return
        self._shown = self._way.pop(0)
        self._bench.show_trial(self._shown)
        if not self._way:
            self._timer.stop()
            if self._aim is not None:
                self._bench.move_playhead(self._aim)
                self.leave()

    def leave(self) -> None:
        """Show it no more: something else is to be seen."""
        self._timer.stop()
        self._way = []
        if self._shown is not None and self._bench.trial is self._shown:
            self._bench.show_trial(None)
        self._shown = None
