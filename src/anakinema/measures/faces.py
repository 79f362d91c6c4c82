"""Faces along the pins: how far two bodies are apart there, and which rub on one another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import relative_poses, transform
from anakinema.measures.answer import Answer, Unanswered
from anakinema.measures.subject import OffLane, Subject

TOUCHES = 1e-6
"""mm between faces that lie on one another."""
TURNS = 1e-6
"""rad, or share of the size, that is no motion."""
LOOKS = 25
"""Poses at which outlines are laid over one another."""
COVERS = 1e-3
"""mm² that two faces must share."""


@dataclass(frozen=True, eq=False)
class FaceDistance(OffLane):
    """The distance of the nearest faces of two bodies along the pins, mm; below zero by as much as
    they share heights. It does not depend on the pose."""

    resolved: Resolved
    first: int
    second: int

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """The distance, exact."""
        apart = [
            max(b[0] - a[1], a[0] - b[1])
            for a in _heights(self.resolved, self.first)
            for b in _heights(self.resolved, self.second)
        ]
        return Answer(min(apart), min(apart)) if apart else Unanswered("nothing to compare")


@dataclass(frozen=True, eq=False)
class Rubbing(OffLane):
    """How many pairs of bodies have faces that lie on one another and move against each other.

    Of one body and all others, or of all. Outlines are laid over one another at some poses.
    """

    resolved: Resolved
    body: int | None

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Their number, and where the first was seen."""
        poses, progress = subject.motion.poses, subject.motion.progress
        still = TURNS * np.array([*(2 * [subject.motion.mechanism.size]), 1.0])
        count, seen = 0, None
        bodies = range(len(self.resolved.document.bodies))
        for i in bodies:
            for j in bodies:
                if j > i and (self.body is None or self.body in (i, j)):
                    row = self._rubs(poses, i, j, still)
                    if row is not None:
                        count += 1
                        seen = float(progress[row]) if seen is None else seen
        return Answer(float(count), float(count), seen)

    def _rubs(self, poses: Floats, i: int, j: int, still: Floats) -> int | None:
        """The first row of poses at which faces of two bodies lie on one another; None if never,
        or if the two keep to one another."""
        relative = relative_poses(poses[:, i], poses[:, j])
        if (np.ptp(relative, axis=0) < still).all():
            return None
        touching = [
            (a, b)
            for a, (low, high) in zip(self._slabs(i), _heights(self.resolved, i), strict=True)
            for b, (base, top) in zip(self._slabs(j), _heights(self.resolved, j), strict=True)
            if min(abs(low - top), abs(base - high)) < TOUCHES
        ]
        for row in np.unique(np.linspace(0, len(poses) - 1, LOOKS).astype(int)):
            for a, b in touching:
                over = shapely.transform(
                    b, lambda points, pose=relative[row]: transform(points, pose[None])[0]
                )
                if a.intersection(over).area > COVERS:
                    return int(row)
        return None

    def _slabs(self, body: int) -> list[shapely.Polygon]:
        part = self.resolved.part_of(self.resolved.document.bodies[body])
        return [slab.region.polygon for slab in part.slabs]


def _heights(resolved: Resolved, body: int) -> list[tuple[float, float]]:
    base = float(resolved.heights[body])
    slabs = resolved.part_of(resolved.document.bodies[body]).slabs
    return [(base + slab.bottom, base + slab.top) for slab in slabs]


def faces(resolved: Resolved, measure: model.FacesMeasure) -> FaceDistance:
    """The measure of a resolved document."""
    ids = [body.id for body in resolved.document.bodies]
    return FaceDistance(resolved, ids.index(measure.first), ids.index(measure.second))


def rubbing(resolved: Resolved, measure: model.RubbingMeasure) -> Rubbing:
    """The measure of a resolved document."""
    ids = [body.id for body in resolved.document.bodies]
    return Rubbing(resolved, None if measure.body is None else ids.index(measure.body))
