"""Measures of one joint: its value, what is left to its limits, its transmission angle."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.measures.answer import Answer, Curve, Looks, Unanswered
from anakinema.measures.located import Posed
from anakinema.measures.subject import Subject
from anakinema.motion.events import find_roots, located
from anakinema.motion.motion import Motion, States


@dataclass(frozen=True)
class OfJoint(Posed):
    """A measure that follows from the value of one joint."""

    joint: int

    @property
    def about(self) -> int:
        """The joint."""
        return self.joint


@dataclass(frozen=True)
class JointValue(OfJoint):
    """The value of a joint as it is shown, rad or mm."""

    def values(self, at: States) -> Floats:
        """(N,) the joint's column."""
        return at.values[:, self.joint]

    def looks(self, motion: Motion, reduce: model.Reduce) -> Looks:
        """Samples and located extremes."""
        turns, values = located(motion, self.joint)
        return Looks(
            np.append(motion.progress, turns), np.append(self.values(motion.samples), values), turns
        )


@dataclass(frozen=True)
class Reserve(OfJoint):
    """The way from a joint's value to the nearer of its limits, infinite where there is none."""

    low: float
    high: float

    @property
    def shown(self) -> JointValue:
        """A lane shows the joint between its limits."""
        return JointValue(self.joint)

    def values(self, at: States) -> Floats:
        """(N,) negative beyond a limit."""
        return self._left(at.values[:, self.joint])

    def looks(self, motion: Motion, reduce: model.Reduce) -> Looks:
        """Where the joint's value may be least or greatest; not where it is midway."""
        found = JointValue(self.joint).looks(motion, reduce)
        return Looks(found.progress, self._left(found.values), found.turns)

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """One answer made of it; none without limits."""
        if math.isinf(self.low) and math.isinf(self.high):
            return Unanswered("no limits")
        return super().answer(reduce, subject, above)

    def _left(self, values: Floats) -> Floats:
        return np.minimum(values - self.low, self.high - values)


@dataclass(frozen=True)
class Used(Reserve):
    """A joint's value as a share of the way between its two limits."""

    @property
    def shown(self) -> Used:  # type: ignore[override]
        """A lane shows the share."""
        return self

    @property
    def _is_between(self) -> bool:
        return math.isfinite(self.high - self.low) and self.high > self.low

    def curve(  # type: ignore[override]
        self, subject: Subject, above: float | None = None
    ) -> Curve | None:
        """Its values at the samples; none unless it has both limits."""
        return super().curve(subject, above) if self._is_between else None

    def answer(
        self, reduce: model.Reduce, subject: Subject, above: float | None
    ) -> Answer | Unanswered:
        """One answer made of it; none unless it has both limits."""
        if not self._is_between:
            return Unanswered("no limits")
        return super().answer(reduce, subject, above)

    def _left(self, values: Floats) -> Floats:
        return np.asarray((values - self.low) / (self.high - self.low))


@dataclass(frozen=True)
class Transmission(OfJoint):
    """The angle between two links at their pin, folded into 0 to a quarter turn, rad.

    ``turn`` is what the angle between the two lines is more than the joint's value.
    """

    turn: float

    def values(self, at: States) -> Floats:
        """(N,) folded angles."""
        return folded(self._unfolded(at))

    def looks(self, motion: Motion, reduce: model.Reduce) -> Looks:
        """Where the joint turns back, and where the lines come into line or stand square."""
        found = JointValue(self.joint).looks(motion, reduce)
        order = np.argsort(found.progress, kind="stable")
        progress, angle = found.progress[order], found.values[order] + self.turn
        # In line it is least, square greatest.
        inline, square = (
            np.empty(0) if reduce == other else self._crossings(motion, progress, angle, at)
            for other, at in (("greatest", 0.0), ("least", np.pi / 2))
        )
        return Looks(
            np.concatenate([found.progress, inline, square]),
            np.concatenate(
                [
                    folded(found.values + self.turn),
                    np.zeros(len(inline)),
                    np.full(len(square), np.pi / 2),
                ]
            ),
            np.sort(np.concatenate([found.turns, inline, square])),
        )

    def _unfolded(self, at: States) -> Floats:
        return at.values[:, self.joint] + self.turn

    def _crossings(self, motion: Motion, progress: Floats, angle: Floats, at: float) -> Floats:
        """(M,) progress where the unfolded angle passes ``at`` and half turns from it."""
        half = np.floor((angle - at) / np.pi)
        k = np.flatnonzero(half[1:] != half[:-1])
        if not len(k):
            return np.empty(0)
        if not motion.segments:
            # A preview has nothing between its samples to look at.
            return np.asarray((progress[k] + progress[k + 1]) / 2)
        aim = at + np.pi * np.round(((angle[k] + angle[k + 1]) / 2 - at) / np.pi)

        def offset(p: Floats) -> tuple[Floats, Floats]:
            state = motion.at(p)
            return self._unfolded(state) - aim, state.value_first[:, self.joint]

        return find_roots(
            offset, (progress[k], progress[k + 1]), (angle[k] - aim, angle[k + 1] - aim)
        )


def folded(angle: Floats) -> Floats:
    """Fold angles (rad) into 0 to a quarter turn."""
    return np.asarray(np.abs(np.mod(angle + np.pi / 2, np.pi) - np.pi / 2))


def joint_value(resolved: Resolved, measure: model.JointMeasure) -> JointValue:
    """The measure of a resolved document."""
    return JointValue(_index(resolved, measure.joint))


def reserve(resolved: Resolved, measure: model.ReserveMeasure) -> Reserve:
    """The measure of a resolved document."""
    return Reserve(*_between_limits(resolved, measure.joint))


def used(resolved: Resolved, measure: model.UsedMeasure) -> Used:
    """The measure of a resolved document."""
    return Used(*_between_limits(resolved, measure.joint))


def _between_limits(resolved: Resolved, name: str) -> tuple[int, float, float]:
    joint = _index(resolved, name)
    limits = resolved.joints[joint]
    low = -math.inf if limits.least is None else limits.least
    return joint, low, math.inf if limits.greatest is None else limits.greatest


def transmission(resolved: Resolved, measure: model.TransmissionMeasure) -> Transmission:
    """The measure of a resolved document."""
    document = resolved.document
    joint = document.joint(measure.joint)
    turn = 0.0
    for side, place, sign in (
        (joint.first, measure.first_place, -1.0),
        (joint.second, measure.second_place, 1.0),
    ):
        places = resolved.part_of(document.body(side.body)).places
        here, there = places[side.place], places[place]
        direction = math.atan2(there[1] - here[1], there[0] - here[0])
        turn += sign * (direction - here[2])
    index = _index(resolved, measure.joint)
    return Transmission(index, resolved.joints[index].zero + turn)


def _index(resolved: Resolved, joint: str) -> int:
    return [each.id for each in resolved.document.joints].index(joint)
