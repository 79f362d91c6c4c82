"""The thinnest wall of a body: between its outlines, and between its faces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.distance import Question, distances
from anakinema.measures.answer import Answer, Unanswered
from anakinema.measures.subject import OffLane, Subject


@dataclass(frozen=True, eq=False)
class Wall(OffLane):
    """The least distance of two outlines of a slab of a body, mm; exact, whatever the pose.

    ``across``: instead the least thickness along the pins of any of its slabs.
    """

    resolved: Resolved
    body: int
    across: bool

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """The wall; none where a body has no hole."""
        slabs = self.resolved.part_of(self.resolved.document.bodies[self.body]).slabs
        if not slabs:
            return Unanswered("nothing to compare")
        if self.across:
            thin = min(slab.top - slab.bottom for slab in slabs)
            return Answer(thin, thin)
        least = np.inf
        for slab in slabs:
            region = slab.region
            others = region.ring[:, None] != region.ring
            if others.any():
                asked = Question(region, region, np.zeros((1, 3)), others, test_inside=False)
                least = min(least, float(distances([asked])[0].distance[0]))
        return Unanswered("no hole") if np.isinf(least) else Answer(least, least)


def wall(resolved: Resolved, measure: model.WallMeasure) -> Wall:
    """The measure of a resolved document."""
    ids = [body.id for body in resolved.document.bodies]
    return Wall(resolved, ids.index(measure.body), measure.across)
