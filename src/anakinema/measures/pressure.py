"""The pressure angle of a pin or roller: how far it is pushed off the way it can go."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import place_path
from anakinema.document import model
from anakinema.document.kinds import Way, spec_of
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats
from anakinema.geometry.curve import Curve as Line
from anakinema.measures.bracketed import Bracketed
from anakinema.measures.joint import folded
from anakinema.motion.motion import Motion, States


@dataclass(frozen=True, slots=True)
class _Held:
    """How the body that is pushed is held: about a place of another body, or along it.

    ``pivot``: the place it turns about; ``along``: what the angle of the way is more than that of
    the body that guides.
    """

    by: int
    pivot: model.Side | None
    along: float


@dataclass(frozen=True, eq=False)
class Pressure(Bracketed):
    """The angle between the common normal where a pin is pushed and the way it can go, rad.

    The normal is square to the curve or slot at the pin's middle. The way is that of the joint
    that holds the pushed body: square to the arm from its pivot, or along its slide. (J. E.
    Shigley, J. J. Uicker, Theory of Machines and Mechanisms, 1980, chapter 6, from memory.)
    """

    resolved: Resolved
    joint: int
    curve_line: Line | None
    held: _Held | None

    @property
    def about(self) -> int:
        """The joint."""
        return self.joint

    def over(self, motion: Motion, at: States) -> Floats:
        """(N,) 0 to a quarter turn; NaN where nothing tells which way it can go."""
        joint = self.resolved.document.joints[self.joint]
        point = place_path(self.resolved, joint.second, at.poses)
        normal = self._tangent(motion, at) + np.pi / 2
        held = self.held
        if held is None:
            return np.full(len(point), np.nan)
        if held.pivot is None:
            way = at.poses[:, held.by, 2] + held.along
        else:
            arm = point - place_path(self.resolved, held.pivot, at.poses)
            way = np.arctan2(arm[:, 1], arm[:, 0]) + np.pi / 2
        return folded(normal - way)

    def _tangent(self, motion: Motion, at: States) -> Floats:
        """(N,) rad, the direction of the curve or slot at the pin."""
        values = self.resolved.joints[self.joint]
        raw = at.values[:, self.joint] + values.zero
        document = self.resolved.document
        joint = document.joints[self.joint]
        body = next(k for k, b in enumerate(document.bodies) if b.id == joint.first.body)
        turned = at.poses[:, body, 2]
        if self.curve_line is not None:
            on = raw if self.curve_line.is_closed else np.clip(raw, 0.0, self.curve_line.length)
            return np.asarray(turned + self.curve_line.at(on)[1].direction)
        angle = self.resolved.part_of(document.bodies[body]).places[joint.first.place][2]
        if spec_of(joint.kind).way is Way.ARC:
            return np.asarray(turned + angle + raw + np.pi / 2)
        return np.asarray(turned + angle)


def pressure(resolved: Resolved, measure: model.PressureMeasure) -> Pressure:
    """The measure of a resolved document."""
    document = resolved.document
    k = [each.id for each in document.joints].index(measure.joint)
    joint = document.joints[k]
    line = None
    if joint.curve is not None:
        carrier = next(b for b in document.bodies if b.id == joint.first.body)
        line = resolved.part_of(carrier).curves[joint.curve]
    return Pressure(resolved, k, line, _held(resolved, joint))


def _held(resolved: Resolved, pushed: model.Joint) -> _Held | None:
    """The joint that holds the body of a pin, on what is fixed if there is one such."""
    document = resolved.document
    index = {body.id: k for k, body in enumerate(document.bodies)}
    fixed = {body.id for body in document.bodies if body.fixed}
    found: list[tuple[bool, _Held]] = []
    for joint in document.joints:
        sides = (joint.first, joint.second)
        mine = [side for side in sides if side.body == pushed.second.body]
        if joint.id == pushed.id or not mine or spec_of(joint.kind).has_curve:
            continue
        other = sides[0] if mine[0] is sides[1] else sides[1]
        spec = spec_of(joint.kind)
        if spec.way is Way.POINT and spec.moves:
            held = _Held(index[other.body], mine[0], 0.0)
        elif spec.is_straight and not spec.is_pin:
            # The way lies in the first body of a slide, whichever of the two is pushed.
            place = resolved.part_of(document.bodies[index[joint.first.body]]).places
            held = _Held(index[joint.first.body], None, place[joint.first.place][2])
        else:
            continue
        found.append((other.body in fixed, held))
    return max(found, key=lambda each: each[0])[1] if found else None
