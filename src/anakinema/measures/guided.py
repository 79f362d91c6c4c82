"""How long a slide is guided, and how far it overhangs."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.guides import Spans, guiding_spans
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Looks, Unanswered
from anakinema.measures.joint import JointValue, OfJoint
from anakinema.measures.subject import Subject
from anakinema.motion.motion import Motion, States

BESIDE = 1e-9
"""mm beside a kink at which the value is looked at too."""


@dataclass(frozen=True)
class Guided(OfJoint):
    """The length of the block (or rod) that lies between the walls of its guide, mm.

    Each wall may have pieces, as where a slot crosses it; the side that guides less counts.
    ``overhang``: instead how far the block's end stands out of its guide.
    """

    zero: float
    walls: tuple[Spans, ...]
    """Of the guide, along the way; each side by itself."""
    block: tuple[float, float] | None
    """The block's ends along the way at value (raw) 0."""
    overhang: bool

    def values(self, at: States) -> Floats:
        """(N,) mm."""
        return self._of(at.values[:, self.joint] + self.zero)

    def _of(self, raw: Floats) -> Floats:
        assert self.block is not None
        low, high = raw + self.block[0], raw + self.block[1]
        if self.overhang:
            begin = max(min(span[0] for span in wall) for wall in self.walls)
            end = min(max(span[1] for span in wall) for wall in self.walls)
            return np.maximum(np.maximum(begin - low, high - end), 0.0)
        shared = [
            sum(
                np.maximum(np.minimum(high, end) - np.maximum(low, begin), 0.0)
                for begin, end in wall
            )
            for wall in self.walls
        ]
        return np.asarray(np.min(shared, axis=0))

    def looks(self, motion: Motion, reduce: model.Reduce) -> Looks:
        """Where the joint turns back, and where an end of the block passes an end of a wall."""
        found = JointValue(self.joint).looks(motion, reduce)
        low, high = float(found.values.min()), float(found.values.max())
        assert self.block is not None
        kinks = {
            end - mine - self.zero
            for wall in self.walls
            for span in wall
            for end in span
            for mine in self.block
            if math.isfinite(mine)
        }
        at = np.array(sorted(kink for kink in kinks if low < kink < high))
        order = np.argsort(found.progress, kind="stable")
        progress, values = found.progress[order], found.values[order]
        passed = [
            (progress[k] + progress[k + 1]) / 2
            if values[k] == values[k + 1]
            else np.interp(kink, *_rising(values, progress, k))
            for kink in at
            for k in np.flatnonzero((values[:-1] - kink) * (values[1:] - kink) <= 0)[:1]
        ]
        return Looks(
            np.concatenate([found.progress, np.array(passed)]),
            np.concatenate([self._of(found.values + self.zero), self._of(at + self.zero)]),
            found.turns,
        )

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """One answer made of it; none where the joint names no walls."""
        if self.block is None or not self.walls:
            return Unanswered("no guide")
        return super().answer(reduce, subject, above)


def _rising(values: Floats, progress: Floats, k: int) -> tuple[Floats, Floats]:
    pair = np.argsort(values[k : k + 2])
    return values[k : k + 2][pair], progress[k : k + 2][pair]


def guided(resolved: Resolved, measure: model.GuidedMeasure | model.OverhangMeasure) -> Guided:
    """The measure of a resolved document."""
    document = resolved.document
    k = [each.id for each in document.joints].index(measure.joint)
    joint, values = document.joints[k], resolved.joints[k]
    overhang = measure.kind == "overhang"
    if values.stroke is not None:
        # The rod begins at its piston and never ends; it is guided up to the barrel's mouth.
        stroke = values.stroke
        whole = ((0.0, stroke.guided + stroke.stroke),)
        walls: tuple[Spans, ...] = () if overhang else (whole,)
        return Guided(k, values.zero, walls, (-stroke.dead_length, math.inf), overhang)
    bodies = [
        next(b for b in document.bodies if b.id == side.body)
        for side in (joint.first, joint.second)
    ]
    heights = [resolved.heights[document.bodies.index(body)] for body in bodies]
    spans = guiding_spans(
        joint,
        (resolved.part_of(bodies[0]), resolved.part_of(bodies[1])),
        (float(heights[0]), float(heights[1])),
        values.twist,
    )
    walls, block = ((), None) if spans is None else spans
    return Guided(k, values.zero, walls, block, overhang)
