"""Whether what moves stays inside an outline."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely

from anakinema.analysis.approaching import InPlane
from anakinema.analysis.clearance import smallest_gap
from anakinema.analysis.splitting import TOLERANCE
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidSlab
from anakinema.geometry.contour import Floats
from anakinema.geometry.distance import contains
from anakinema.geometry.poses import carried, relative_poses, transform
from anakinema.geometry.region import Region
from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.measures.gap import MOST_POINTS
from anakinema.measures.subject import Subject
from anakinema.mechanism.slab_pairs import SlabPair


@dataclass(frozen=True, eq=False)
class Housing:
    """The least distance from inside to the outline of a housing, whatever the heights, mm.

    ``bodies`` are compared with the outer outline of the housing's largest slab. All must lie
    inside at the start: what never crosses the outline then stays inside.
    """

    resolved: Resolved
    bodies: tuple[int, ...]
    housing: int

    @property
    def shown(self) -> Housing:
        """A lane shows the distance itself."""
        return self

    @cached_property
    def _outline(self) -> SolidSlab:
        slabs = self.resolved.part_of(self.resolved.document.bodies[self.housing]).slabs
        largest = max(slabs, key=lambda slab: float(slab.region.polygon.area))
        return replace(largest, region=Region.build(largest.region.contours[0], (), ()))

    @cached_property
    def _pairs(self) -> list[SlabPair]:
        if not self.resolved.part_of(self.resolved.document.bodies[self.housing]).slabs:
            return []
        outline = self._outline
        found = []
        for body in self.bodies:
            for slab in self.resolved.part_of(self.resolved.document.bodies[body]).slabs:
                # Its holes lie inside it: only its outer outline can meet the housing.
                compared = np.outer(
                    slab.region.ring == 0, np.ones(len(outline.region.ring), dtype=bool)
                )
                found.append(SlabPair(body, self.housing, slab, outline, compared, True))
        return found

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """Its least, certified; none where something is outside at the start."""
        if not self._pairs:
            return Unanswered("nothing to compare")
        poses = subject.motion.poses[0]
        for pair in self._pairs:
            relative = relative_poses(poses[None, self.housing], poses[None, pair.first_body])[0]
            at = np.array(carried(relative, pair.first.region.edges.start[0]))
            if not contains(self._outline.region, at[None])[0]:
                return Unanswered("outside at the start")
        exact = subject.gaps.exact
        gap = smallest_gap(subject.motion, self._pairs, InPlane(), threshold=above, exact=exact)
        assert gap is not None
        if gap.overlaps:
            return self._out(subject.motion.poses, subject.motion.progress)
        return Answer(gap.least if exact else gap.most, gap.most, gap.progress, gap=gap)

    def _out(self, poses: Floats, progress: Floats) -> Answer:
        """By how much the corners and middles of edges come out at most, at the samples."""
        polygon = self._outline.region.polygon
        out = np.zeros(len(progress))
        for pair in self._pairs:
            region = pair.first.region
            outer = region.ring == 0
            points = np.concatenate([region.edges.start[outer], region.middle[outer]])
            relative = relative_poses(poses[:, self.housing], poses[:, pair.first_body])
            placed = transform(points, relative)
            away = shapely.distance(polygon, shapely.points(placed.reshape(-1, 2)))
            out = np.maximum(out, away.reshape(placed.shape[:2]).max(axis=1))
        k = int(np.argmax(out))
        # An arc may come out between its middle and its ends.
        most = -max(float(out[k]), TOLERANCE)
        return Answer(most, most, float(progress[k]))

    def curve(self, subject: Subject, above: float | None = None) -> Curve | None:
        """Its values at some samples."""
        if not self._pairs:
            return None
        progress, poses = subject.motion.progress, subject.motion.poses
        rows = np.unique(np.linspace(0, len(progress) - 1, MOST_POINTS).astype(int))
        values: Floats = InPlane().curve(self._pairs, poses[rows])
        return Curve(progress[rows], values)


def housing(resolved: Resolved, measure: model.HousingMeasure) -> Housing:
    """The measure of a resolved document: of one body, or of all that move."""
    ids = [body.id for body in resolved.document.bodies]
    inside = ids.index(measure.housing)
    if measure.body is not None:
        return Housing(resolved, (ids.index(measure.body),), inside)
    moving = [k for k, body in enumerate(resolved.document.bodies) if not body.fixed]
    return Housing(resolved, tuple(k for k in moving if k != inside), inside)
