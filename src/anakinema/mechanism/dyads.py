"""Closed-form poses and rates of mechanisms that come apart into dyads.

Many mechanisms can be placed body by body: one whose angle or slide is commanded, or one or two
that two circles, a circle and a line, or two lines place between bodies already placed. Such
groups (Assur groups of second class) have at most two poses, told apart by a side that cannot
change without a singular pose. Planar vectors are complex numbers here, with N samples each.
Every group's velocities solve x·a + y·b = r for two unknown speeds along two vectors; the sine
of the angle between a and b says how far the group is from a singular pose.
Derived in docs/methods.md, "Dyads"; checked there against the general equations.
"""

from __future__ import annotations

import cmath
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anakinema.document.kinds import Rider, Way, spec_of
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import System
from anakinema.mechanism.kernels import Kernel

Complexes = npt.NDArray[np.complex128]

RIGID = Way.POINT, Rider.BLOCK
PIN = Way.POINT, Rider.PIN
SLIDE = Way.LINE, Rider.BLOCK
SLOT = Way.LINE, Rider.PIN


@dataclass(frozen=True, slots=True, eq=False)
class Placed:
    """A body at N samples: place, angle, unit vector of the angle, and two rates of each."""

    place: Complexes
    angle: Floats
    turned: Complexes
    velocity: Complexes
    spin: Floats
    acceleration: Complexes
    spin_rate: Floats

    def point(self, local: complex) -> _Point:
        """A point of the body with its rates."""
        arm = self.turned * local
        return _Point(
            self.place + arm,
            self.velocity + 1j * self.spin * arm,
            self.acceleration + (1j * self.spin_rate - self.spin**2) * arm,
        )

    def carrying(self, at: Complexes) -> _Point:
        """The point of the body that is at a place just now."""
        arm = at - self.place
        return _Point(
            at,
            self.velocity + 1j * self.spin * arm,
            self.acceleration + (1j * self.spin_rate - self.spin**2) * arm,
        )


@dataclass(frozen=True, slots=True, eq=False)
class _Point:
    at: Complexes
    velocity: Complexes
    acceleration: Complexes


@dataclass(frozen=True, slots=True)
class _Pin:
    """A point of a body."""

    body: int
    point: complex


@dataclass(frozen=True, slots=True)
class _Track:
    """A straight line of a body: ``offset`` mm to the left of a point, along an angle."""

    body: int
    point: complex
    angle: float
    offset: float

    def line(self, placed: Sequence[Placed]) -> tuple[Complexes, Complexes]:
        """A point of the line and its direction."""
        rider = placed[self.body]
        along = rider.turned * cmath.exp(1j * self.angle)
        return rider.place + rider.turned * self.point + 1j * self.offset * along, along


@dataclass(frozen=True, slots=True)
class _Command:
    """A value (rad or mm) that a row of the right-hand sides prescribes, as scale times it."""

    row: int
    scale: float


@dataclass(frozen=True, slots=True, eq=False)
class _Inputs:
    """What a stage prescribes: targets (N, R), their constant rate (R,), rough angles (N, B)."""

    targets: Floats
    target_rate: Floats
    angles: Floats

    def value(self, command: _Command) -> Floats:
        return np.asarray(command.scale * self.targets[:, command.row])

    def rate(self, command: _Command) -> float:
        return command.scale * float(self.target_rate[command.row])


def _dot(a: Complexes, b: Complexes) -> Floats:
    return np.asarray(a.real * b.real + a.imag * b.imag)


def _cross(a: Complexes, b: Complexes) -> Floats:
    return np.asarray(a.real * b.imag - a.imag * b.real)


def _solved(a: Complexes, b: Complexes, right: Complexes) -> tuple[Floats, Floats]:
    """x and y of x·a + y·b = right."""
    with np.errstate(divide="ignore", invalid="ignore"):
        area = 1.0 / _cross(a, b)
        return _cross(right, b) * area, _cross(a, right) * area


def _sine(a: Complexes, b: Complexes) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(_cross(a, b) / (np.abs(a) * np.abs(b)))


def _root(value: Floats) -> Floats:
    with np.errstate(invalid="ignore"):
        return np.asarray(np.sqrt(value))


def _pinned(
    pin: _Point, own: complex, angle: Floats, turned: Complexes, spin: Floats, spin_rate: Floats
) -> Placed:
    """A body with its own point on a pin, turned as given."""
    arm = turned * own
    return Placed(
        pin.at - arm,
        angle,
        turned,
        pin.velocity - 1j * spin * arm,
        spin,
        pin.acceleration - (1j * spin_rate - spin**2) * arm,
        spin_rate,
    )


def _swung(
    inputs: _Inputs,
    body: int,
    pin: _Point,
    own: complex,
    turned: Complexes,
    rates: tuple[Floats, Floats],
) -> Placed:
    """The same where the angle follows from the turn, in the full turn roughly known."""
    angle = np.angle(turned)
    angle += 2 * np.pi * np.round((inputs.angles[:, body] - angle) / (2 * np.pi))
    return _pinned(pin, own, angle, turned, *rates)


@dataclass(frozen=True, slots=True)
class _Attitude:
    """A settled angle of a body: that of another (if any), more, and a command (if any)."""

    base: int | None
    more: float
    command: _Command | None = None

    def of(self, inputs: _Inputs, placed: Sequence[Placed]) -> tuple[Floats, Floats, Floats]:
        """Angle, spin and its rate, (N,) each."""
        angle = np.full(len(inputs.targets), self.more)
        spin, spin_rate = np.zeros(len(angle)), np.zeros(len(angle))
        if self.command is not None:
            angle += inputs.value(self.command)
            spin += inputs.rate(self.command)
        if self.base is not None:
            base = placed[self.base]
            angle, spin, spin_rate = angle + base.angle, spin + base.spin, base.spin_rate
        return angle, spin, spin_rate


@dataclass(frozen=True, slots=True)
class _Carried:
    """A body whose angle is settled and one of whose points is on a pin."""

    body: int
    pin: _Pin
    own: complex
    attitude: _Attitude

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.body,)

    def place(self, inputs: _Inputs, placed: list[Placed], side: Floats) -> list[Placed]:
        angle, spin, spin_rate = self.attitude.of(inputs, placed)
        pin = placed[self.pin.body].point(self.pin.point)
        return [_pinned(pin, self.own, angle, np.exp(1j * angle), spin, spin_rate)]

    def sine(self, placed: list[Placed]) -> Floats:
        return np.ones(len(placed[self.body].angle))


@dataclass(frozen=True, slots=True)
class _Slider:
    """A body whose point ``own`` runs on a track, and that does not turn against its body."""

    body: int
    track: _Track
    own: complex
    attitude: _Attitude

    def start(self, inputs: _Inputs, placed: list[Placed]) -> tuple[Placed, Complexes]:
        """The body with its point where the track begins, riding along; and the direction."""
        angle, spin, spin_rate = self.attitude.of(inputs, placed)
        base, along = self.track.line(placed)
        there = placed[self.track.body].carrying(base)
        return _pinned(there, self.own, angle, np.exp(1j * angle), spin, spin_rate), along

    def moved(
        self, start: Placed, along: Complexes, slide: tuple[Floats, Floats, Floats]
    ) -> Placed:
        """The body after a slide along the track, given with its two rates."""
        s, speed, push = slide
        turning = 1j * start.spin
        return replace(
            start,
            place=start.place + s * along,
            velocity=start.velocity + (turning * s + speed) * along,
            acceleration=start.acceleration
            + ((1j * start.spin_rate - start.spin**2) * s + 2 * turning * speed + push) * along,
        )


@dataclass(frozen=True, slots=True)
class _Pushed:
    """A slider whose slide is commanded."""

    slider: _Slider
    slide: _Command

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.slider.body,)

    def place(self, inputs: _Inputs, placed: list[Placed], side: Floats) -> list[Placed]:
        start, along = self.slider.start(inputs, placed)
        s = inputs.value(self.slide)
        speed = np.full(len(s), inputs.rate(self.slide))
        return [self.slider.moved(start, along, (s, speed, np.zeros(len(s))))]

    def sine(self, placed: list[Placed]) -> Floats:
        return np.ones(len(placed[self.slider.body].angle))


@dataclass(frozen=True, slots=True)
class _TwoPins:
    """Two bodies, each on a pin of its own, pinned together: two circles meet.

    ``own`` are their points on those pins, ``joint`` their points where they are joined.
    """

    bodies: tuple[int, int]
    pins: tuple[_Pin, _Pin]
    own: tuple[complex, complex]
    joint: tuple[complex, complex]

    def place(self, inputs: _Inputs, placed: list[Placed], side: Floats) -> list[Placed]:
        one, two = (placed[pin.body].point(pin.point) for pin in self.pins)
        arms = [joint - own for joint, own in zip(self.joint, self.own, strict=True)]
        between = two.at - one.at
        span = np.abs(between)
        x = (abs(arms[0]) ** 2 - abs(arms[1]) ** 2 + span**2) / (2 * span)
        y = side * _root(abs(arms[0]) ** 2 - x**2)
        e1 = (x + 1j * y) * (between / span)
        e2 = e1 - between
        spins = _solved(1j * e1, -1j * e2, two.velocity - one.velocity)
        right = two.acceleration - one.acceleration + spins[0] ** 2 * e1 - spins[1] ** 2 * e2
        spin_rates = _solved(1j * e1, -1j * e2, right)
        return [
            _swung(inputs, self.bodies[k], pin, self.own[k], e / arms[k], (spins[k], spin_rates[k]))
            for k, (pin, e) in enumerate(((one, e1), (two, e2)))
        ]

    def sine(self, placed: list[Placed]) -> Floats:
        e1, e2 = (
            placed[body].turned * (joint - own)
            for body, joint, own in zip(self.bodies, self.joint, self.own, strict=True)
        )
        return _sine(e1, e2)


@dataclass(frozen=True, slots=True)
class _PinAndTrack:
    """A body on a pin whose point ``joint`` runs on a line: a circle and a line meet.

    The line is a track of a placed body, or runs with a slider that the body is joined to at
    the slider's point ``slider_joint``.
    """

    body: int
    pin: _Pin
    own: complex
    joint: complex
    track: _Track
    slider: _Slider | None = None
    slider_joint: complex = 0.0

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.body,) if self.slider is None else (self.body, self.slider.body)

    def place(self, inputs: _Inputs, placed: list[Placed], side: Floats) -> list[Placed]:
        pin = placed[self.pin.body].point(self.pin.point)
        rider = placed[self.track.body]
        base, along = self.track.line(placed)
        start = None
        if self.slider is not None:
            start, _ = self.slider.start(inputs, placed)
            base = start.point(self.slider_joint).at
        arm = self.joint - self.own
        to_pin = pin.at - base
        across = _cross(along, to_pin)
        ahead = side * _root(abs(arm) ** 2 - across**2)
        e = (ahead - 1j * across) * along
        joint = rider.carrying(pin.at + e)
        spin, speed = _solved(1j * e, -along, joint.velocity - pin.velocity)
        right = joint.acceleration + 2j * speed * rider.spin * along + spin**2 * e
        spin_rate, push = _solved(1j * e, -along, right - pin.acceleration)
        body = _swung(inputs, self.body, pin, self.own, e / arm, (spin, spin_rate))
        if self.slider is None or start is None:
            return [body]
        slide = _dot(along, to_pin) + ahead
        return [body, self.slider.moved(start, along, (slide, speed, push))]

    def sine(self, placed: list[Placed]) -> Floats:
        _, along = self.track.line(placed)
        return _sine(1j * placed[self.body].turned * (self.joint - self.own), -along)


@dataclass(frozen=True, slots=True)
class _Rider:
    """A body on a pin at its point ``own``, whose point ``joint`` slides on another's line."""

    body: int
    own: complex
    joint: complex
    more: float
    """rad, its angle less that of the body with the line."""


@dataclass(frozen=True, slots=True)
class _PinAndSlot:
    """A body on a pin whose own line runs over a second pin, or over a rider on that pin.

    ``line`` is in the body itself.
    """

    line: _Track
    pins: tuple[_Pin, _Pin]
    own: complex
    rider: _Rider | None = None

    @property
    def bodies(self) -> tuple[int, ...]:
        first = self.line.body
        return (first,) if self.rider is None else (first, self.rider.body)

    def place(self, inputs: _Inputs, placed: list[Placed], side: Floats) -> list[Placed]:
        one, two = (placed[pin.body].point(pin.point) for pin in self.pins)
        # How far the second pin is to the left of the first, across the line.
        axis = cmath.exp(1j * self.line.angle)
        towards = self.line.point - self.own
        if self.rider is not None:
            towards -= cmath.exp(1j * self.rider.more) * (self.rider.joint - self.rider.own)
        height = self.line.offset + (towards / axis).imag
        e = two.at - one.at
        ahead = side * _root(np.abs(e) ** 2 - height**2)
        turned = e / ((ahead + 1j * height) * axis)
        along = turned * axis
        spin, speed = _solved(1j * e, along, two.velocity - one.velocity)
        right = two.acceleration - one.acceleration + spin**2 * e - 2j * spin * speed * along
        rates = spin, _solved(1j * e, along, right)[0]
        body = _swung(inputs, self.line.body, one, self.own, turned, rates)
        if self.rider is None:
            return [body]
        with_it = turned * cmath.exp(1j * self.rider.more)
        angle = body.angle + self.rider.more
        return [body, _pinned(two, self.rider.own, angle, with_it, *rates)]

    def sine(self, placed: list[Placed]) -> Floats:
        one, two = (placed[pin.body].point(pin.point).at for pin in self.pins)
        return _sine(self.line.line(placed)[1], 1j * (two - one))


@dataclass(frozen=True, slots=True)
class _SlideAndSlot:
    """A slider held by a slot: two lines meet. The slot is its own, or that of a placed body."""

    slider: _Slider
    line: _Track
    pin: _Pin
    """On the other body than the line."""

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.slider.body,)

    def place(self, inputs: _Inputs, placed: list[Placed], side: Floats) -> list[Placed]:
        start, along = self.slider.start(inputs, placed)
        bodies = [*placed]
        bodies[self.slider.body] = start
        pin = bodies[self.pin.body].point(self.pin.point)
        base, slot = self.line.line(bodies)
        area, away = _cross(slot, along), _cross(slot, base - pin.at)
        if self.line.body == self.slider.body:
            s = -away / area
            carried = start.carrying(pin.at)
            past = pin.velocity - carried.velocity
            speed = _solved(along, slot, past)[0]
            right = pin.acceleration - carried.acceleration - 2j * start.spin * past
            push = _solved(along, slot, right)[0]
        else:
            s = away / area
            at = pin.at + s * along
            mine, other = start.carrying(at), placed[self.line.body].carrying(at)
            speed, run = _solved(along, -slot, other.velocity - mine.velocity)
            right = other.acceleration - mine.acceleration
            right = right + 2j * (placed[self.line.body].spin * run * slot)
            push = _solved(along, -slot, right - 2j * start.spin * speed * along)[0]
        return [self.slider.moved(start, along, (s, speed, push))]

    def sine(self, placed: list[Placed]) -> Floats:
        # Two lines meet once, so there is no side to choose; only how flat they meet.
        _, along = self.slider.track.line(placed)
        return np.abs(_sine(self.line.line(placed)[1], along))


_Step = _Carried | _Pushed | _TwoPins | _PinAndTrack | _PinAndSlot | _SlideAndSlot


@dataclass(frozen=True, slots=True, eq=False)
class Dyads:
    """A system of equations as a sequence of closed-form steps."""

    system: System
    steps: tuple[_Step, ...]

    def sines(self, poses: Floats) -> Floats:
        """(N, G) for poses (N, B, 3): sine of every group, with the sign of its side."""
        placed = [_as_placed(poses[:, b]) for b in range(poses.shape[1])]
        return np.array([step.sine(placed) for step in self.steps]).T.reshape(len(poses), -1)

    def solve(
        self, targets: Floats, target_rate: Floats, near: Floats, sides: Floats
    ) -> tuple[Floats, Floats, Floats]:
        """Poses and two rates (N, B, 3) for targets (N, R) that change at ``target_rate`` (R,).

        ``near`` (N, B, 3) or (1, B, 3) gives fixed bodies, and the full turn that angles are in;
        ``sides`` (N, G) or (1, G) the signs of `sines`. NaN where a group cannot close.
        """
        count = len(targets)
        near = np.broadcast_to(near, (count, *near.shape[1:]))
        inputs = _Inputs(targets, target_rate, near[..., 2])
        placed = [_as_placed(near[:, b]) for b in range(near.shape[1])]
        sides = np.broadcast_to(np.sign(sides), (count, len(self.steps)))
        for k, step in enumerate(self.steps):
            for body, found in zip(
                step.bodies, step.place(inputs, placed, sides[:, k]), strict=True
            ):
                placed[body] = found
        poses, first, second = (np.empty((count, len(placed), 3)) for _ in range(3))
        for b, at in enumerate(placed):
            poses[:, b, 0], poses[:, b, 1] = at.place.real, at.place.imag
            first[:, b, 0], first[:, b, 1] = at.velocity.real, at.velocity.imag
            second[:, b, 0], second[:, b, 1] = at.acceleration.real, at.acceleration.imag
            poses[:, b, 2], first[:, b, 2], second[:, b, 2] = at.angle, at.spin, at.spin_rate
        return poses, first, second


def _as_placed(pose: Floats) -> Placed:
    """A still body at poses (N, 3)."""
    zero = np.zeros(len(pose))
    still = zero.astype(complex)
    return Placed(
        pose[:, 0] + 1j * pose[:, 1], pose[:, 2], np.exp(1j * pose[:, 2]), still, zero, still, zero
    )


def decompose(system: System) -> Dyads | None:
    """The closed-form steps of a system; None if it does not come apart into them."""
    held_places = any(hold.kind in ("x", "y") for hold in system.holds)
    # Couplings and touches tie bodies together from afar: no group of two can then be placed alone.
    tied = system.mechanism.coupled or system.mechanism.runs or system.touches
    if system.rows != system.unknowns or held_places or tied:
        return None
    plan = _Plan(system)
    while plan.left and plan.step():
        pass
    if plan.left or plan.unused or plan.commands or plan.attitudes:
        return None
    return Dyads(system, tuple(plan.steps))


def _commands(system: System) -> tuple[dict[int, _Command], dict[int, _Command]]:
    """What drivers and holds prescribe: values by joint, and angles by body."""
    mechanism = system.mechanism
    joints = [*system.drivers, *(h.index for h in system.holds if h.kind == "value")]
    bodies = [h.index for h in system.holds if h.kind == "angle"]
    first = len(mechanism.row_kernel)
    values = {
        joint: _Command(first + k, 1.0 / mechanism.size if mechanism.angular[joint] else 1.0)
        for k, joint in enumerate(joints)
    }
    angles = {
        body: _Command(first + len(joints) + k, 1.0 / mechanism.size)
        for k, body in enumerate(bodies)
    }
    return values, angles


class _Plan:
    """Bodies are placed one group after the other, until all joints and commands are used."""

    def __init__(self, system: System) -> None:
        mechanism = system.mechanism
        self.mechanism, self.table = mechanism, mechanism.table
        specs = [spec_of(j.kind) for j in mechanism.resolved.document.joints]
        self.kinds = [(spec.way, spec.rider) for spec in specs]
        self.left = {int(b) for b in np.flatnonzero(~mechanism.fixed)}
        self.unused = set(range(len(self.kinds)))
        self.commands, self.attitudes = _commands(system)
        self.steps: list[_Step] = []
        self.constant = {
            (int(joint), Kernel(kernel)): float(target)
            for joint, kernel, target in zip(
                mechanism.row_joint, mechanism.row_kernel, mechanism.row_target, strict=True
            )
        }

    def step(self) -> bool:
        """Place one more group of bodies, if one can be."""
        for body in sorted(self.left):
            known = [k for k in sorted(self.unused) if self._other(k, body) not in (None, body)]
            known = [k for k in known if self._other(k, body) not in self.left]
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

    def _take(self, step: _Step, joints: list[int]) -> None:
        self.steps.append(step)
        self.left -= set(step.bodies)
        self.unused -= set(joints)

    def _other(self, joint: int, body: int) -> int | None:
        first, second = int(self.table.first[joint]), int(self.table.second[joint])
        if body not in (first, second):
            return None
        return second if body == first else first

    def _side(self, joint: int, body: int) -> tuple[complex, float]:
        """The place of a joint on a body: point and angle."""
        t = self.table
        if int(t.first[joint]) == body:
            point, angle = t.first_point[joint], t.first_angle[joint]
        else:
            point, angle = t.second_point[joint], t.second_angle[joint]
        return complex(point[0], point[1]), float(angle)

    def _pin(self, joint: int, body: int) -> _Pin:
        """The pin on the other body that a body hangs on."""
        other = self._other(joint, body)
        assert other is not None
        return _Pin(other, self._side(joint, other)[0])

    def _attitude(self, joint: int, body: int, command: _Command | None) -> _Attitude:
        """Angle of a body against the other of a joint whose turn is constant or commanded."""
        other = self._other(joint, body)
        assert other is not None
        forward = 1.0 if int(self.table.second[joint]) == body else -1.0
        more = self._side(joint, other)[1] - self._side(joint, body)[1]
        if command is not None:
            return _Attitude(other, more, _Command(command.row, forward * command.scale))
        turn = self.constant[joint, Kernel.TURN] / self.mechanism.size
        return _Attitude(other, more + forward * turn)

    def _slider(self, joint: int, body: int) -> _Slider:
        attitude = self._attitude(joint, body, None)
        other = self._other(joint, body)
        assert other is not None
        own, own_angle = self._side(joint, body)
        point, angle = self._side(joint, other)
        offset = self.constant[joint, Kernel.ACROSS]
        if int(self.table.first[joint]) == body:
            # The axis is the body's own; seen from the other it runs where the body is turned to.
            angle, offset = attitude.more + own_angle, -offset
        return _Slider(body, _Track(other, point, angle, offset), own, attitude)

    def _track(self, joint: int) -> _Track:
        """The line of a slot, in the body that has it."""
        body = int(self.table.first[joint])
        point, angle = self._side(joint, body)
        return _Track(body, point, angle, self.constant[joint, Kernel.ACROSS])

    def _single(self, body: int, known: list[int]) -> tuple[_Step, list[int]] | None:
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
                attitude = _Attitude(None, 0.0, self.attitudes.pop(body))
                return self._carried(joint, body, attitude), [joint]
            for slot in by_kind.get(SLOT, []):
                pin = self._pin(joint, body)
                if int(self.table.first[slot]) == body:
                    pins = pin, self._pin(slot, body)
                    return _PinAndSlot(self._track(slot), pins, own), [joint, slot]
                end = self._side(slot, body)[0]
                step = _PinAndTrack(body, pin, own, end, self._track(slot))
                return (step, [joint, slot]) if end != own else None
        for joint in by_kind.get(SLIDE, []):
            slider = self._slider(joint, body)
            if joint in self.commands:
                command = self.commands.pop(joint)
                forward = 1.0 if int(self.table.second[joint]) == body else -1.0
                slide = _Command(command.row, forward * command.scale)
                return _Pushed(slider, slide), [joint]
            for slot in by_kind.get(SLOT, []):
                line = self._track(slot)
                pin_body = int(self.table.second[slot])
                pin = _Pin(pin_body, self._side(slot, pin_body)[0])
                return _SlideAndSlot(slider, line, pin), [joint, slot]
        return None

    def _carried(self, joint: int, body: int, attitude: _Attitude) -> _Carried:
        return _Carried(body, self._pin(joint, body), self._side(joint, body)[0], attitude)

    def _pair(self, joint: int) -> tuple[_Step, list[int]] | None:
        """Two bodies joined to one another and each to a placed one."""
        pair = int(self.table.first[joint]), int(self.table.second[joint])
        if not set(pair) <= self.left or joint in self.commands:
            return None
        bearings = []
        for body in pair:
            hung = [
                k
                for k in sorted(self.unused)
                if self._other(k, body) not in (None, *self.left) and k not in self.commands
            ]
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
        if kinds == (PIN, PIN, PIN) and own[0] != meet[0]:
            pins = self._pin(bearings[0], first), self._pin(bearings[1], second)
            if own[1] == meet[1]:
                return None
            return _TwoPins(pair, pins, (own[0], own[1]), (meet[0], meet[1])), used
        if kinds == (PIN, PIN, SLIDE) and own[0] != meet[0]:
            slider = self._slider(bearings[1], second)
            pin = self._pin(bearings[0], first)
            step = _PinAndTrack(first, pin, own[0], meet[0], slider.track, slider, meet[1])
            return step, used
        if kinds == (PIN, SLIDE, PIN):
            pins = self._pin(bearings[0], first), self._pin(bearings[1], second)
            rider = _Rider(second, own[1], meet[1], self._attitude(joint, second, None).more)
            return _PinAndSlot(self._track(joint), pins, own[0], rider), used
        return None
