"""Closed-form poses and rates of mechanisms that come apart into dyads.

Many mechanisms can be placed body by body: one whose angle or slide is commanded, or one or two
that two circles, a circle and a line, or two lines place between bodies already placed. Such
groups (Assur groups of second class) have at most two poses, told apart by a side that cannot
change without a singular pose. Planar vectors are complex numbers here, with samples (..., N),
of one mechanism or of variants whose numbers have leading axes (V, 1).
Every group's velocities solve x·a + y·b = r for two unknown speeds along two vectors; the sine
of the angle between a and b says how far the group is from a singular pose.
Derived in docs/methods.md, "Dyads"; checked there against the general equations.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.document.kinds import Rider, Way, spec_of
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.dyad_steps import (
    Attitude,
    Carried,
    Command,
    Complex,
    HungPin,
    Inputs,
    PinAndSlot,
    PinAndTrack,
    Placed,
    Pushed,
    Real,
    Ridden,
    SlideAndSlot,
    Slider,
    Step,
    Track,
    TwoPins,
)
from anakinema.mechanism.kernels import Kernel
from anakinema.mechanism.system import System

RIGID = Way.POINT, Rider.BLOCK


PIN = Way.POINT, Rider.PIN


SLIDE = Way.LINE, Rider.BLOCK


SLOT = Way.LINE, Rider.PIN


@dataclass(frozen=True, slots=True, eq=False)
class Dyads:
    """A system of equations as a sequence of closed-form steps."""

    system: System
    steps: tuple[Step, ...]

    def sines(self, poses: Floats) -> Floats:
        """(..., G) for poses (..., B, 3): sine of every group, with the sign of its side."""
        placed = {body: _as_placed(poses[..., body, :]) for body in range(poses.shape[-2])}
        found = np.empty((*poses.shape[:-2], len(self.steps)))
        for k, step in enumerate(self.steps):
            found[..., k] = step.sine(placed)
        return found

    def solve(
        self, targets: Floats, target_rate: Floats, near: Floats, sides: Floats
    ) -> tuple[Floats, Floats, Floats]:
        """Poses and two rates (..., B, 3) for targets (..., R) that change at ``target_rate``.

        ``near`` gives fixed bodies, and the full turn that angles are in; ``sides`` the signs of
        `sines`; they and the rates broadcast to the targets. NaN where a group cannot close.
        """
        shape = targets.shape[:-1]
        near = np.broadcast_to(near, (*shape, *near.shape[-2:]))
        inputs = Inputs(targets, target_rate, near[..., 2])
        moved = {body for step in self.steps for body in step.bodies}
        given = (body for body in range(near.shape[-2]) if body not in moved)
        placed = {body: _as_placed(near[..., body, :]) for body in given}
        sides = np.broadcast_to(np.sign(sides), (*shape, len(self.steps)))
        for k, step in enumerate(self.steps):
            for body, found in zip(
                step.bodies, step.place(inputs, placed, sides[..., k]), strict=True
            ):
                placed[body] = found
        poses, first, second = (np.empty((*shape, near.shape[-2], 3)) for _ in range(3))
        for b, at in placed.items():
            for into, place, angle in (
                (poses, at.place, at.angle),
                (first, at.velocity, at.spin),
                (second, at.acceleration, at.spin_rate),
            ):
                into[..., b, 0], into[..., b, 1], into[..., b, 2] = place.real, place.imag, angle
        return poses, first, second


def _apart(one: Complex, other: Complex) -> bool:
    """Whether two points of a body are two in every variant."""
    return bool(np.all(one != other))


def _as_placed(pose: Floats) -> Placed:
    """A still body at poses (..., 3)."""
    zero = np.zeros(pose.shape[:-1])
    still = zero.astype(complex)
    place, angle = pose[..., 0] + 1j * pose[..., 1], pose[..., 2]
    return Placed(place, angle, np.exp(1j * angle), still, zero, still, zero)


def decompose(system: System) -> Dyads | None:
    """The closed-form steps of a system; None if it does not come apart into them."""
    held_places = any(hold.kind in ("x", "y") for hold in system.holds)
    # Loops and touches tie bodies together from afar: no group of two can then be placed alone.
    tied = system.mechanism.runs or system.touches
    if system.rows != system.unknowns or held_places or tied:
        return None
    couplings = _couplings(system.mechanism)
    if couplings is None:
        return None
    plan = _Plan(system, couplings)
    while plan.left and plan.step():
        pass
    if plan.left or plan.unused or plan.commands or plan.attitudes or plan.couplings:
        return None
    return Dyads(system, tuple(plan.steps))


def _commands(system: System) -> tuple[dict[int, Command], dict[int, Command]]:
    """What drivers and holds prescribe: values by joint, and angles by body."""
    mechanism = system.mechanism
    joints = [*system.drivers, *(h.index for h in system.holds if h.kind == "value")]
    bodies = [h.index for h in system.holds if h.kind == "angle"]
    first = len(mechanism.row_kernel)
    values = {
        joint: Command(first + k, 1.0 / mechanism.size if mechanism.angular[joint] else 1.0)
        for k, joint in enumerate(joints)
    }
    angles = {
        body: Command(first + len(joints) + k, 1.0 / mechanism.size)
        for k, body in enumerate(bodies)
    }
    return values, angles


@dataclass(frozen=True, slots=True, eq=False)
class _Turning:
    """A coupling of turns: the ``shares`` of the angles of bodies add up to ``rest``."""

    shares: dict[int, float]
    rest: Real


def _couplings(mechanism: Mechanism) -> list[_Turning] | None:
    """All couplings; None if one couples something else than turns."""
    table, size = mechanism.table, mechanism.size
    rows = np.flatnonzero(mechanism.row_kernel == int(Kernel.COUPLED))
    found: list[_Turning] = []
    for row, coupled in zip(rows, mechanism.coupled, strict=True):
        shares: dict[int, float] = {}
        rest = mechanism.row_target[..., row] / size
        for joint, kernel, factor in coupled.terms:
            if kernel is not Kernel.TURN:
                return None
            rest = rest - factor * (table.second_angle - table.first_angle)[..., joint]
            for side, sign in ((table.second, 1.0), (table.first, -1.0)):
                shares[int(side[joint])] = shares.get(int(side[joint]), 0.0) + sign * factor
        found.append(_Turning({body: each for body, each in shares.items() if each}, rest))
    return found


class _Plan:
    """Bodies are placed one group after the other, until all joints and commands are used."""

    def __init__(self, system: System, couplings: list[_Turning]) -> None:
        mechanism = system.mechanism
        self.mechanism, self.table = mechanism, mechanism.table
        specs = [spec_of(j.kind) for j in mechanism.resolved.document.joints]
        self.kinds = [(spec.way, spec.rider) for spec in specs]
        self.left = {int(b) for b in np.flatnonzero(~mechanism.fixed)}
        self.unused = set(range(len(self.kinds)))
        self.joints_of: dict[int, list[int]] = {body: [] for body in self.left}
        for joint, ends in enumerate(zip(self.table.first, self.table.second, strict=True)):
            for body in {int(end) for end in ends} & self.left:
                self.joints_of[body].append(joint)
        self.commands, self.attitudes = _commands(system)
        self.steps: list[Step] = []
        # Bodies whose angle is known with all its full turns, not only up to one.
        self.settled = {int(b) for b in np.flatnonzero(mechanism.fixed)}
        self.couplings = couplings
        self.constant = {
            (int(joint), Kernel(kernel)): mechanism.row_target[..., row]
            for row, (joint, kernel) in enumerate(
                zip(mechanism.row_joint, mechanism.row_kernel, strict=True)
            )
        }

    def step(self) -> bool:
        """Place one more group of bodies, if one can be."""
        for body in sorted(self.left):
            known = self._hung(body)
            found = self._single(body, known)
            if found is not None:
                self._take(found[0], found[1])
                return True
        for joint in sorted(self.unused):
            pair = self._pair(joint)
            if pair is not None:
                self._take(pair[0], pair[1])
                return True
        return False

    def _hung(self, body: int) -> list[int]:
        """Joints not used yet by which a body that is left hangs on those that stand."""
        return [
            k
            for k in self.joints_of[body]
            if k in self.unused and self._other(k, body) not in self.left
        ]

    def _take(self, step: Step, joints: list[int]) -> None:
        self.steps.append(step)
        if isinstance(step, Carried) and self._is_settled(step.attitude):
            self.settled.add(step.body)
        self.left -= set(step.bodies)
        self.unused -= set(joints)

    def _other(self, joint: int, body: int) -> int | None:
        first, second = int(self.table.first[joint]), int(self.table.second[joint])
        if body not in (first, second):
            return None
        return second if body == first else first

    def _side(self, joint: int, body: int) -> tuple[Complex, Real]:
        """The place of a joint on a body: point and angle."""
        t = self.table
        if int(t.first[joint]) == body:
            point, angle = t.first_point[..., joint, :], t.first_angle[..., joint]
        else:
            point, angle = t.second_point[..., joint, :], t.second_angle[..., joint]
        return point[..., 0] + 1j * point[..., 1], angle

    def _pin(self, joint: int, body: int) -> HungPin:
        """The pin on the other body that a body hangs on."""
        other = self._other(joint, body)
        assert other is not None
        return HungPin(other, self._side(joint, other)[0])

    def _attitude(self, joint: int, body: int, command: Command | None) -> Attitude:
        """Angle of a body against the other of a joint whose turn is constant or commanded."""
        other = self._other(joint, body)
        assert other is not None
        forward = 1.0 if int(self.table.second[joint]) == body else -1.0
        more = self._side(joint, other)[1] - self._side(joint, body)[1]
        if command is not None:
            command = Command(command.row, forward * command.scale)
            return Attitude(((other, 1.0),), more, command)
        turn = self.constant[joint, Kernel.TURN] / self.mechanism.size
        return Attitude(((other, 1.0),), more + forward * turn)

    def _is_settled(self, attitude: Attitude) -> bool:
        return all(body in self.settled for body, _ in attitude.bases)

    def _geared(self, body: int) -> Attitude | None:
        """The angle of a body that a coupling settles, by those of bodies that stand already."""
        for k, coupling in enumerate(self.couplings):
            share = coupling.shares.get(body)
            others = {other: each for other, each in coupling.shares.items() if other != body}
            if share is None or not self.settled.issuperset(others):
                continue
            del self.couplings[k]
            bases = tuple((other, -each / share) for other, each in others.items())
            return Attitude(bases, coupling.rest / share)
        return None

    def _slider(self, joint: int, body: int) -> Slider:
        attitude = self._attitude(joint, body, None)
        other = self._other(joint, body)
        assert other is not None
        own, own_angle = self._side(joint, body)
        point, angle = self._side(joint, other)
        offset = self.constant[joint, Kernel.ACROSS]
        if int(self.table.first[joint]) == body:
            # The axis is the body's own; seen from the other it runs where the body is turned to.
            angle, offset = attitude.more + own_angle, -offset
        return Slider(body, Track(other, point, angle, offset), own, attitude)

    def _track(self, joint: int) -> Track:
        """The line of a slot, in the body that has it."""
        body = int(self.table.first[joint])
        point, angle = self._side(joint, body)
        return Track(body, point, angle, self.constant[joint, Kernel.ACROSS])

    def _single(self, body: int, known: list[int]) -> tuple[Step, list[int]] | None:
        by_kind: dict[tuple[Way, Rider], list[int]] = {}
        for joint in known:
            by_kind.setdefault(self.kinds[joint], []).append(joint)
        for joint in by_kind.get(RIGID, []):
            return self._carried(joint, body, self._attitude(joint, body, None)), [joint]
        for joint in by_kind.get(PIN, []):
            own = self._side(joint, body)[0]
            if joint in self.commands:
                command = self.commands.pop(joint)
                return self._carried(joint, body, self._attitude(joint, body, command)), [joint]
            if body in self.attitudes:
                attitude = Attitude((), 0.0, self.attitudes.pop(body))
                return self._carried(joint, body, attitude), [joint]
            geared = self._geared(body)
            if geared is not None:
                return self._carried(joint, body, geared), [joint]
            for slot in by_kind.get(SLOT, []):
                pin = self._pin(joint, body)
                if int(self.table.first[slot]) == body:
                    pins = pin, self._pin(slot, body)
                    return PinAndSlot(self._track(slot), pins, own), [joint, slot]
                end = self._side(slot, body)[0]
                step = PinAndTrack(body, pin, own, end, self._track(slot))
                return (step, [joint, slot]) if _apart(end, own) else None
        for joint in by_kind.get(SLIDE, []):
            slider = self._slider(joint, body)
            if joint in self.commands:
                command = self.commands.pop(joint)
                forward = 1.0 if int(self.table.second[joint]) == body else -1.0
                slide = Command(command.row, forward * command.scale)
                return Pushed(slider, slide), [joint]
            for slot in by_kind.get(SLOT, []):
                line = self._track(slot)
                pin_body = int(self.table.second[slot])
                pin = HungPin(pin_body, self._side(slot, pin_body)[0])
                return SlideAndSlot(slider, line, pin), [joint, slot]
        return None

    def _carried(self, joint: int, body: int, attitude: Attitude) -> Carried:
        return Carried(body, self._pin(joint, body), self._side(joint, body)[0], attitude)

    def _pair(self, joint: int) -> tuple[Step, list[int]] | None:
        """Two bodies joined to one another and each to a placed one."""
        pair = int(self.table.first[joint]), int(self.table.second[joint])
        if not set(pair) <= self.left or joint in self.commands:
            return None
        bearings = []
        for body in pair:
            hung = [k for k in self._hung(body) if k not in self.commands]
            if len(hung) != 1:
                return None
            bearings.append(hung[0])
        kinds = tuple(self.kinds[k] for k in (bearings[0], joint, bearings[1]))
        if kinds == (SLIDE, PIN, PIN):
            pair, bearings = pair[::-1], bearings[::-1]
            kinds = kinds[::-1]
        used = [*bearings, joint]
        first, second = pair
        own = [self._side(k, b)[0] for k, b in zip(bearings, pair, strict=True)]
        meet = [self._side(joint, b)[0] for b in pair]
        if kinds == (PIN, PIN, PIN) and _apart(own[0], meet[0]):
            pins = self._pin(bearings[0], first), self._pin(bearings[1], second)
            if not _apart(own[1], meet[1]):
                return None
            return TwoPins(pair, pins, (own[0], own[1]), (meet[0], meet[1])), used
        if kinds == (PIN, PIN, SLIDE) and _apart(own[0], meet[0]):
            slider = self._slider(bearings[1], second)
            pin = self._pin(bearings[0], first)
            step = PinAndTrack(first, pin, own[0], meet[0], slider.track, slider, meet[1])
            return step, used
        if kinds == (PIN, SLIDE, PIN):
            pins = self._pin(bearings[0], first), self._pin(bearings[1], second)
            rider = Ridden(second, own[1], meet[1], self._attitude(joint, second, None).more)
            return PinAndSlot(self._track(joint), pins, own[0], rider), used
        return None
