"""What one or two bodies come to, placed from those that stand already, in closed form.

Samples are (..., N) for one mechanism or for variants of it; what is particular to a variant is
(V, 1) then and broadcasts over them.

Long for its seven closed forms, each with its two rates; they are read side by side.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats

Complexes = npt.NDArray[np.complex128]
Complex = complex | Complexes
"""Of one mechanism, or (V, 1) of variants; so is a `Real`."""
Real = float | Floats


@dataclass(frozen=True, slots=True, eq=False)
class Placed:
    """A body at samples (..., N): place, angle, unit vector of the angle, and two rates of each."""

    place: Complexes
    angle: Floats
    turned: Complexes
    velocity: Complexes
    spin: Floats
    acceleration: Complexes
    spin_rate: Floats

    def point(self, local: Complex) -> _Point:
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
class HungPin:
    """A point of a body."""

    body: int
    point: Complex


@dataclass(frozen=True, slots=True)
class Track:
    """A straight line of a body: ``offset`` mm to the left of a point, along an angle."""

    body: int
    point: Complex
    angle: Real
    offset: Real

    def line(self, placed: Mapping[int, Placed]) -> tuple[Complexes, Complexes]:
        """A point of the line and its direction."""
        rider = placed[self.body]
        along = rider.turned * np.exp(1j * self.angle)
        return rider.place + rider.turned * self.point + 1j * self.offset * along, along


@dataclass(frozen=True, slots=True)
class Command:
    """A value (rad or mm) that a row of the right-hand sides prescribes, as scale times it."""

    row: int
    scale: float


@dataclass(frozen=True, slots=True, eq=False)
class Inputs:
    """What a stage prescribes: targets (..., R), their constant rate, rough angles (..., B)."""

    targets: Floats
    target_rate: Floats
    angles: Floats

    def value(self, command: Command) -> Floats:
        return np.asarray(command.scale * self.targets[..., command.row])

    def rate(self, command: Command) -> Floats:
        return np.asarray(command.scale * self.target_rate[..., command.row])


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
    pin: _Point, own: Complex, angle: Floats, turned: Complexes, spin: Floats, spin_rate: Floats
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
    inputs: Inputs,
    body: int,
    pin: _Point,
    own: Complex,
    turned: Complexes,
    rates: tuple[Floats, Floats],
) -> Placed:
    """The same where the angle follows from the turn, in the full turn roughly known."""
    angle = np.angle(turned)
    angle += 2 * np.pi * np.round((inputs.angles[..., body] - angle) / (2 * np.pi))
    return _pinned(pin, own, angle, turned, *rates)


@dataclass(frozen=True, slots=True)
class Attitude:
    """A settled angle of a body: (body, share) of those of others, more, and a command (if any)."""

    bases: tuple[tuple[int, float], ...]
    more: Real
    command: Command | None = None

    def of(self, inputs: Inputs, placed: Mapping[int, Placed]) -> tuple[Floats, Floats, Floats]:
        """Angle, spin and its rate, (..., N) each."""
        angle = np.zeros(inputs.targets.shape[:-1]) + self.more
        spin, spin_rate = np.zeros(angle.shape), np.zeros(angle.shape)
        if self.command is not None:
            angle = angle + inputs.value(self.command)
            spin = spin + inputs.rate(self.command)
        for body, share in self.bases:
            base = placed[body]
            angle = angle + share * base.angle
            spin, spin_rate = spin + share * base.spin, spin_rate + share * base.spin_rate
        return angle, spin, spin_rate


@dataclass(frozen=True, slots=True)
class Carried:
    """A body whose angle is settled and one of whose points is on a pin."""

    body: int
    pin: HungPin
    own: Complex
    attitude: Attitude

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.body,)

    def place(self, inputs: Inputs, placed: Mapping[int, Placed], side: Floats) -> list[Placed]:
        angle, spin, spin_rate = self.attitude.of(inputs, placed)
        pin = placed[self.pin.body].point(self.pin.point)
        return [_pinned(pin, self.own, angle, np.exp(1j * angle), spin, spin_rate)]

    def sine(self, placed: Mapping[int, Placed]) -> Floats:
        return np.ones_like(placed[self.body].angle)


@dataclass(frozen=True, slots=True)
class Slider:
    """A body whose point ``own`` runs on a track, and that does not turn against its body."""

    body: int
    track: Track
    own: Complex
    attitude: Attitude

    def start(self, inputs: Inputs, placed: Mapping[int, Placed]) -> tuple[Placed, Complexes]:
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
class Pushed:
    """A slider whose slide is commanded."""

    slider: Slider
    slide: Command

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.slider.body,)

    def place(self, inputs: Inputs, placed: Mapping[int, Placed], side: Floats) -> list[Placed]:
        start, along = self.slider.start(inputs, placed)
        s = inputs.value(self.slide)
        speed = np.broadcast_to(inputs.rate(self.slide), s.shape)
        return [self.slider.moved(start, along, (s, speed, np.zeros(s.shape)))]

    def sine(self, placed: Mapping[int, Placed]) -> Floats:
        return np.ones_like(placed[self.slider.body].angle)


@dataclass(frozen=True, slots=True)
class TwoPins:
    """Two bodies, each on a pin of its own, pinned together: two circles meet.

    ``own`` are their points on those pins, ``joint`` their points where they are joined.
    """

    bodies: tuple[int, int]
    pins: tuple[HungPin, HungPin]
    own: tuple[Complex, Complex]
    joint: tuple[Complex, Complex]

    def place(self, inputs: Inputs, placed: Mapping[int, Placed], side: Floats) -> list[Placed]:
        one, two = (placed[pin.body].point(pin.point) for pin in self.pins)
        arms = [joint - own for joint, own in zip(self.joint, self.own, strict=True)]
        between = two.at - one.at
        span = np.abs(between)
        x = (np.abs(arms[0]) ** 2 - np.abs(arms[1]) ** 2 + span**2) / (2 * span)
        y = side * _root(np.abs(arms[0]) ** 2 - x**2)
        e1 = (x + 1j * y) * (between / span)
        e2 = e1 - between
        spins = _solved(1j * e1, -1j * e2, two.velocity - one.velocity)
        right = two.acceleration - one.acceleration + spins[0] ** 2 * e1 - spins[1] ** 2 * e2
        spin_rates = _solved(1j * e1, -1j * e2, right)
        return [
            _swung(inputs, self.bodies[k], pin, self.own[k], e / arms[k], (spins[k], spin_rates[k]))
            for k, (pin, e) in enumerate(((one, e1), (two, e2)))
        ]

    def sine(self, placed: Mapping[int, Placed]) -> Floats:
        e1, e2 = (
            placed[body].turned * (joint - own)
            for body, joint, own in zip(self.bodies, self.joint, self.own, strict=True)
        )
        return _sine(e1, e2)


@dataclass(frozen=True, slots=True)
class PinAndTrack:
    """A body on a pin whose point ``joint`` runs on a line: a circle and a line meet.

    The line is a track of a placed body, or runs with a slider that the body is joined to at
    the slider's point ``slider_joint``.
    """

    body: int
    pin: HungPin
    own: Complex
    joint: Complex
    track: Track
    slider: Slider | None = None
    slider_joint: Complex = 0.0

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.body,) if self.slider is None else (self.body, self.slider.body)

    def place(self, inputs: Inputs, placed: Mapping[int, Placed], side: Floats) -> list[Placed]:
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
        ahead = side * _root(np.abs(arm) ** 2 - across**2)
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

    def sine(self, placed: Mapping[int, Placed]) -> Floats:
        _, along = self.track.line(placed)
        return _sine(1j * placed[self.body].turned * (self.joint - self.own), -along)


@dataclass(frozen=True, slots=True)
class Ridden:
    """A body on a pin at its point ``own``, whose point ``joint`` slides on another's line."""

    body: int
    own: Complex
    joint: Complex
    more: Real
    """rad, its angle less that of the body with the line."""


@dataclass(frozen=True, slots=True)
class PinAndSlot:
    """A body on a pin whose own line runs over a second pin, or over a rider on that pin.

    ``line`` is in the body itself.
    """

    line: Track
    pins: tuple[HungPin, HungPin]
    own: Complex
    rider: Ridden | None = None

    @property
    def bodies(self) -> tuple[int, ...]:
        first = self.line.body
        return (first,) if self.rider is None else (first, self.rider.body)

    def place(self, inputs: Inputs, placed: Mapping[int, Placed], side: Floats) -> list[Placed]:
        one, two = (placed[pin.body].point(pin.point) for pin in self.pins)
        # How far the second pin is to the left of the first, across the line.
        axis = np.exp(1j * self.line.angle)
        towards = self.line.point - self.own
        if self.rider is not None:
            towards -= np.exp(1j * self.rider.more) * (self.rider.joint - self.rider.own)
        height = self.line.offset + np.imag(towards / axis)
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
        with_it = turned * np.exp(1j * self.rider.more)
        angle = body.angle + self.rider.more
        return [body, _pinned(two, self.rider.own, angle, with_it, *rates)]

    def sine(self, placed: Mapping[int, Placed]) -> Floats:
        one, two = (placed[pin.body].point(pin.point).at for pin in self.pins)
        return _sine(self.line.line(placed)[1], 1j * (two - one))


@dataclass(frozen=True, slots=True)
class SlideAndSlot:
    """A slider held by a slot: two lines meet. The slot is its own, or that of a placed body."""

    slider: Slider
    line: Track
    pin: HungPin
    """On the other body than the line."""

    @property
    def bodies(self) -> tuple[int, ...]:
        return (self.slider.body,)

    def place(self, inputs: Inputs, placed: Mapping[int, Placed], side: Floats) -> list[Placed]:
        start, along = self.slider.start(inputs, placed)
        bodies = {**placed, self.slider.body: start}
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

    def sine(self, placed: Mapping[int, Placed]) -> Floats:
        # Two lines meet once, so there is no side to choose; only how flat they meet.
        _, along = self.slider.track.line(placed)
        return np.abs(_sine(self.line.line(placed)[1], along))


Step = Carried | Pushed | TwoPins | PinAndTrack | PinAndSlot | SlideAndSlot
