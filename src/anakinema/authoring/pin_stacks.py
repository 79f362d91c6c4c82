"""What a pin passes through, and a fastener for it: screw with nut and washers, or a retaining ring
on a pin that is part of a body."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.distance import contains
from anakinema.geometry.poses import carried, within
from anakinema.parts.fasteners import HEADS, RINGS, HeadKind, Thread, next_length, thread_for
from anakinema.units import LENGTH

NEAR = 0.05
"""mm within which places lie on one axis."""
PROUD = 1.0, 3.0
"""Threads that a screw stands out of its nut, least and most (common practice, no source)."""
LIKE = 2.0
"""mm by which a round is at most another than a hole that it is a pin for."""
TOUCH = 1e-6
"""mm by which faces that touch may miss one another."""


@dataclass(frozen=True, slots=True)
class Layer:
    """A slab on the axis of a pin: heights bottom and top mm; hole: its diameter round the axis, 0
    where it is solid there; round: diameter of a solid that is itself a pin, 0 for none."""

    body: str
    bottom: float
    top: float
    hole: float
    round: float

    @property
    def thickness(self) -> float:
        """mm."""
        return self.top - self.bottom


@dataclass(frozen=True, slots=True)
class PinStack:
    """All layers on an axis, from below."""

    layers: tuple[Layer, ...]

    @property
    def pins(self) -> tuple[Layer, ...]:
        """Rounds that a hole sits on, or is meant to."""
        holes = [layer.hole for layer in self.bored]
        return tuple(
            layer
            for layer in self.layers
            if layer.round and any(abs(layer.round - hole) <= LIKE for hole in holes)
        )

    @property
    def bored(self) -> tuple[Layer, ...]:
        """What has a hole on the axis."""
        return tuple(layer for layer in self.layers if layer.hole)

    @property
    def grip(self) -> float:
        """mm from the lowest face to the highest of all that is bored."""
        if not self.bored:
            return 0.0
        return max(x.top for x in self.bored) - min(x.bottom for x in self.bored)


@dataclass(frozen=True, slots=True)
class Screwed:
    """A screw through all holes, with a washer at each end and a nut: its length, and how many
    threads stand proud of the nut."""

    thread: Thread
    kind: HeadKind
    length: float
    washers: int
    proud: float

    @property
    def words(self) -> str:
        """'M5 x 16 ISO 4762, nut ISO 4032, 2 washers ISO 7089: 2.9 threads proud'."""
        washers = f", {self.washers} washers ISO 7089" if self.washers else ""
        return (
            f"{self.thread.name} x {self.length:g} {HEADS[self.kind]}, nut ISO 4032{washers}:"
            f" {self.proud:.1f} threads proud"
        )


@dataclass(frozen=True, slots=True)
class Fastening:
    """What is proposed for a pin, in lines, and what is wrong with its stack."""

    lines: tuple[str, ...]
    faults: tuple[str, ...]


def pin_stack(resolved: Resolved, poses: Floats, joint_id: str) -> PinStack | None:
    """What lies on the axis of a pin joint at poses (B, 3): slabs of its bodies and of all that is
    pinned there too; None if it is no pin joint."""
    document = resolved.document
    ids = {body.id: k for k, body in enumerate(document.bodies)}

    def axis(joint: model.Joint) -> tuple[float, float]:
        k = ids[joint.second.body]
        return carried(poses[k], resolved.part_of(document.bodies[k]).places[joint.second.place])

    joint = next((each for each in document.joints if each.id == joint_id), None)
    if joint is None or not spec_of(joint.kind).is_pin:
        return None
    at = axis(joint)
    bodies: set[str] = set()
    for other in document.joints:
        holds = spec_of(other.kind).is_pin or other.kind == "rigid"
        if holds and math.dist(axis(other), at) <= NEAR:
            bodies |= {other.first.body, other.second.body}
    layers = []
    for body in bodies:
        k = ids[body]
        local = np.array(within(poses[k], at))
        height = float(resolved.heights[k])
        for slab in resolved.part_of(document.bodies[k]).slabs:
            hole = _round_about(slab.region.contours[1:], local)
            solid = hole == 0.0 and bool(contains(slab.region, local[None])[0])
            if not (hole or solid):
                continue
            pin = _round_about(slab.region.contours[:1], local) if solid else 0.0
            layers.append(Layer(body, height + slab.bottom, height + slab.top, hole, pin))
    return PinStack(tuple(sorted(layers, key=lambda each: (each.bottom, each.top))))


def _round_about(contours: tuple[Contour, ...], at: Floats) -> float:
    """Diameter of the smallest full circle about a place among contours, 0 if there is none."""
    circles = (contour.circle for contour in contours)
    found = [
        2 * circle[2]
        for circle in circles
        if circle is not None and math.dist(circle[:2], at) <= NEAR
    ]
    return min(found, default=0.0)


def screwed(stack: PinStack, kind: HeadKind, *, washers: int = 2) -> Screwed | None:
    """The largest thread that passes all holes, and the shortest usual screw that stands at least
    one thread proud of its nut; None where there is none."""
    if not stack.bored:
        return None
    thread = thread_for(min(layer.hole for layer in stack.bored))
    if thread is None:
        return None
    under = stack.grip + washers * thread.washer_thickness + thread.nut_height
    length = next_length(thread, kind, under + PROUD[0] * thread.pitch)
    if length is None:
        return None
    return Screwed(thread, kind, length, washers, (length - under) / thread.pitch)


def fastening(resolved: Resolved, stack: PinStack) -> Fastening:
    """What holds a pin together, and what is wrong with it, in words."""
    titles = {body.id: body.title for body in resolved.document.bodies}

    def mm(value: float) -> str:
        return resolved.units.format(value, LENGTH)

    lines = [
        f"{titles[x.body]}: {mm(x.thickness)}"
        + (
            f", hole {mm(x.hole)}"
            if x.hole
            else f", pin {mm(x.round)}"
            if x in stack.pins
            else ", solid"
        )
        for x in stack.layers
    ]
    faults = _faults(stack, titles, mm)
    if not stack.bored:
        return Fastening(tuple(lines), tuple(faults))
    lines.append(f"grip {mm(stack.grip)}")
    if stack.pins:
        lines += _on_a_pin(stack, mm)
    elif all(layer.hole for layer in stack.layers):
        found = [each for kind in HEADS if (each := screwed(stack, kind)) is not None]
        lines += [each.words for each in found]
        if not found:
            faults.append("no usual screw passes its holes and is long enough")
        for each in found[:1]:
            if each.proud > PROUD[1]:
                spare = (each.proud - PROUD[1]) * each.thread.pitch
                faults.append(f"the next usual length is {mm(spare)} too long: add a washer")
    return Fastening(tuple(lines), tuple(faults))


def _on_a_pin(stack: PinStack, mm) -> list[str]:  # type: ignore[no-untyped-def]
    upper = max(stack.pins, key=lambda each: each.top)
    lower = min(stack.pins, key=lambda each: each.bottom)
    high = max(layer.top for layer in stack.bored)
    low = min(layer.bottom for layer in stack.bored)
    # Of its two ends the one that stands out farther is free.
    up, down = upper.top - high, low - lower.bottom
    pin, stands = (upper, up) if up >= down or not _ends_free(stack, lower) else (lower, down)
    lines = [f"the pin stands {mm(max(stands, 0.0))} out of what sits on it"]
    ring = RINGS.get(round(pin.round, 6))
    if ring is not None:
        thick, groove, beyond = ring
        lines.append(
            f"retaining ring DIN 471 {pin.round:g} x {thick:g}: groove {mm(groove)}, needs"
            f" {mm(thick + beyond)} of pin beyond the stack"
        )
        if stands < thick + beyond - TOUCH:
            lines.append(f"for that ring the pin is {mm(thick + beyond - stands)} too short")
    return lines


def _ends_free(stack: PinStack, pin: Layer) -> bool:
    """Whether nothing of its own body lies below a pin."""
    return not any(
        layer.body == pin.body and layer.top <= pin.bottom + TOUCH
        for layer in stack.layers
        if layer is not pin
    )


def _faults(stack: PinStack, titles: dict[str, str], mm) -> list[str]:  # type: ignore[no-untyped-def]
    faults = []
    pins = stack.pins
    for one, other in zip(stack.layers, stack.layers[1:], strict=False):
        if one.hole and other.hole and other.bottom > one.top + TOUCH:
            gap = mm(other.bottom - one.top)
            filled = any(
                p.bottom <= one.top + TOUCH and p.top >= other.bottom - TOUCH for p in pins
            )
            if not filled:
                faults.append(
                    f"{gap} between {titles[one.body]} and {titles[other.body]} is empty: a spacer"
                    " is missing"
                )
        shares = min(one.top, other.top) - max(one.bottom, other.bottom)
        if shares > TOUCH and one.body != other.body and one.hole and other.hole:
            faults.append(
                f"{titles[one.body]} and {titles[other.body]} share {mm(shares)} of height"
            )
    for layer in stack.bored:
        for pin in pins:
            if pin.body == layer.body:
                continue
            within_pin = pin.bottom <= layer.bottom + TOUCH and pin.top >= layer.top - TOUCH
            meets = pin.top > layer.bottom + TOUCH and pin.bottom < layer.top - TOUCH
            if meets and pin.round > layer.hole + TOUCH:
                faults.append(
                    f"pin {mm(pin.round)} of {titles[pin.body]} does not go into the hole"
                    f" {mm(layer.hole)} of {titles[layer.body]}"
                )
            if meets and not within_pin:
                faults.append(f"the pin of {titles[pin.body]} ends inside {titles[layer.body]}")
    return list(dict.fromkeys(faults))
