"""What holds a pin together, or could, and what is wrong with its stack, in words."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from anakinema.authoring.holding import PROUD, Screwed, free_end, ringed, screwed, series_for
from anakinema.authoring.pin_stacks import TOUCH, Layer, PinStack
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.parts.fasteners import RINGS
from anakinema.units import LENGTH

Words = Callable[[float], str]
BLIND = 2.0
"""Threads that stay free below a screw in a blind hole (common practice, no source)."""
WIDE, THICK, LAND = 2.2, 2.5, 0.45
"""A ring so many times as wide as its bore, and so thick (mm), is taken for a rolling bearing; so
much of its wall belongs to each of its rings (common practice, no source)."""
THIN = 0.25
"""Share of a hole that the wall round it has at least (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Fastening:
    """What is proposed for a pin, in lines, and what is wrong with its stack."""

    lines: tuple[str, ...]
    faults: tuple[str, ...]


def fastening(
    resolved: Resolved, stack: PinStack, hardware: model.Hardware | None = None
) -> Fastening:
    """What holds a pin together, or could, and what is wrong with it, in words."""
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
    lines += _side_play(stack, titles, mm)
    if stack.pins:
        lines += _on_a_pin(stack, mm)
        ring = ringed(stack)
        if hardware is not None and ring is not None and ring.missing <= TOUCH:
            lines.append(f"held by {ring.words}")
        elif hardware is not None:
            faults.append("its hardware cannot follow: no retaining ring goes on this pin")
        return Fastening(tuple(lines), tuple(faults))
    series = series_for(resolved)
    if hardware is not None:
        screw = screwed(
            stack, hardware.head, washers=hardware.washers, series=series, below=hardware.below
        )
        if screw is None:
            faults.append("its hardware cannot follow: no usual screw with that head holds it")
            return Fastening(tuple(lines), tuple(faults))
        lines.append(f"held by {screw.words}{_head_words(screw, mm)}")
        # Its spacers fill what is empty.
        faults = [each for each in faults if not each.endswith("a spacer is missing")]
        return Fastening(tuple(lines), (*faults, *screw_faults(stack, screw, mm)))
    found: list[Screwed] = []
    for below in (False, True):
        if not found:
            every = [screwed(stack, kind, series=series, below=below) for kind in series.heads]
            found = [each for each in every if each is not None]
    lines += [f"{each.words}{_head_words(each, mm)}" for each in found]
    if not found and len(stack.layers) > 1:
        faults.append("no usual screw passes its holes and is long enough")
    if found:
        faults += screw_faults(stack, found[0], mm)
    return Fastening(tuple(lines), tuple(faults))


def _head_words(screw: Screwed, mm: Words) -> str:
    below = ", from below" if screw.below else ""
    return f"{below}{_seat_words(screw, mm)}"


def _seat_words(screw: Screwed, mm: Words) -> str:
    if screw.kind == "countersunk":
        head = screw.thread.heads[screw.kind]
        return f"; its cone takes Ø{head.diameter:g} and {mm(head.height)} of the layer"
    if screw.stands < -TOUCH:
        return f"; the head is sunk by {mm(-screw.stands)}"
    return f"; the head stands {mm(screw.stands)} proud"


def screw_faults(stack: PinStack, screw: Screwed, mm: Words) -> list[str]:
    """What is wrong with a screw in a stack."""
    faults = []
    thread = screw.thread
    if not screw.engaged and screw.proud > PROUD[1]:
        spare = (screw.proud - PROUD[1]) * thread.pitch
        faults.append(f"the next usual length is {mm(spare)} too long: add a washer")
    layers = sorted(stack.layers, key=lambda layer: layer.bottom, reverse=screw.below)
    if screw.engaged:
        last = layers[0]
        room = last.thickness - (0.0 if last.hole else BLIND * thread.pitch)
        if screw.engaged > room + TOUCH and not last.hole:
            faults.append(
                f"the screw needs {mm(screw.engaged + BLIND * thread.pitch)} of the last layer,"
                f" which is {mm(last.thickness)} thick"
            )
    head_layer = layers[-1]
    if screw.kind == "countersunk" and head_layer.thickness < thread.heads["countersunk"].height:
        faults.append(f"the layer is thinner than the head, {mm(head_layer.thickness)}")
    return faults


def _side_play(stack: PinStack, titles: Mapping[str, str], mm: Words) -> list[str]:
    """How far what turns on the axis can move along it, between the faces beside it."""
    found = []
    for piece in dict.fromkeys(layer.piece for layer in stack.bored):
        own = [layer for layer in stack.layers if layer.piece == piece]
        others = [layer for layer in stack.layers if layer.piece != piece]
        low, high = min(x.bottom for x in own), max(x.top for x in own)
        under = [x.top for x in others if x.top <= low + TOUCH]
        over = [x.bottom for x in others if x.bottom >= high - TOUCH]
        if under and over:
            play = low - max(under) + min(over) - high
            found.append(f"side play of {titles[own[0].body]}: {mm(max(play, 0.0))}")
    return found


def _on_a_pin(stack: PinStack, mm: Words) -> list[str]:
    lines = [f"the pin stands {mm(max(free_end(stack)[1], 0.0))} out of what sits on it"]
    ring = ringed(stack)
    if ring is not None:
        groove = RINGS[ring.diameter][1]
        lines.append(
            f"{ring.words}: groove {mm(groove)}, needs {mm(ring.thick + ring.beyond)} of pin"
            " beyond the stack"
        )
        if ring.missing > TOUCH:
            lines.append(f"for that ring the pin is {mm(ring.missing)} too short")
    return lines


def _spans_both_rings(bearing: Layer, beside: Layer) -> bool:
    """Whether a layer is like a rolling bearing, and what lies on it reaches from its inner ring
    to its outer one."""
    if bearing.ring < WIDE * bearing.hole or bearing.thickness < THICK:
        return False
    land = LAND * (bearing.ring - bearing.hole)
    outside = beside.ring or math.inf
    return outside > bearing.hole + land and beside.hole < bearing.ring - land


def _faults(stack: PinStack, titles: Mapping[str, str], mm: Words) -> list[str]:
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
                    f"{gap} between {titles[one.body]} and {titles[other.body]} is empty:"
                    " a spacer is missing"
                )
        shares = min(one.top, other.top) - max(one.bottom, other.bottom)
        if shares > TOUCH and one.body != other.body and one.hole and other.hole:
            faults.append(
                f"{titles[one.body]} and {titles[other.body]} share {mm(shares)} of height"
            )
        meet = abs(other.bottom - one.top) <= TOUCH
        for bearing, beside in ((one, other), (other, one)):
            if meet and bearing.body != beside.body and _spans_both_rings(bearing, beside):
                faults.append(
                    f"{titles[beside.body]} lies on both rings of {titles[bearing.body]} and rubs:"
                    " put a narrow spacer between"
                )
    for layer in stack.bored:
        if layer.wall < THIN * layer.hole:
            faults.append(
                f"only {mm(layer.wall)} of wall round the hole {mm(layer.hole)} of"
                f" {titles[layer.body]}"
            )
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
