"""What a pin passes through, and a fastener for it: screw with nut and washers, or a retaining ring
on a pin that is part of a body."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from anakinema.document import model
from anakinema.document.body_graph import one_piece_sets
from anakinema.document.kinds import spec_of
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.distance import contains, outline_span
from anakinema.geometry.poses import carried, within
from anakinema.geometry.region import Region
from anakinema.parts.fasteners import METRIC, RINGS, UNC, Series, Thread, next_length, thread_for
from anakinema.units import LENGTH

Words = Callable[[float], str]
NEAR = 0.05
"""mm within which places lie on one axis."""
PROUD = 1.0, 3.0
"""Threads that a screw stands out of its nut, least and most (common practice, no source)."""
LIKE = 2.0
"""mm by which a round is at most another than a hole that it is a pin for."""
TOUCH = 1e-6
"""mm by which faces that touch may miss one another."""
TAPPED = 0.15
"""mm by which a hole may differ from the core of a thread and be one."""
SUNK = 0.4
"""mm by which a hole is wider than a head, or a washer, that goes into it."""
BLIND = 2.0
"""Threads that stay free below a screw in a blind hole (common practice, no source)."""
WIDE, THICK, LAND = 2.2, 2.5, 0.45
"""A ring so many times as wide as its bore, and so thick (mm), is taken for a rolling bearing; so
much of its wall belongs to each of its rings (common practice, no source)."""
THIN = 0.25
"""Share of a hole that the wall round it has at least (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Layer:
    """A slab on the axis of a pin: heights bottom and top mm; hole: its diameter round the axis, 0
    where it is solid there; round: diameter of a solid that is itself a pin, 0 for none. wall: mm
    of material round the hole at its thinnest; ring: diameter of an outline round the axis, 0 for
    another; piece: bodies with the same number are one piece."""

    body: str
    bottom: float
    top: float
    hole: float
    round: float
    wall: float = math.inf
    ring: float = 0.0
    piece: int = -1

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
    """A screw through all holes, or into a thread at the far end: its length, and where it sits.

    washers : at the head and at the nut. seats : heights mm of the faces that the head, or its
    washer, and the nut, or its washer, lie on; without a nut the second is where the thread begins.
    proud : threads that stand out of the nut. engaged : mm of thread in the last layer, 0 with a
    nut. stands : mm that the head stands out of the stack, below zero where it is sunk.
    """

    series: Series
    thread: Thread
    kind: model.HeadKind
    length: float
    washers: tuple[int, int]
    seats: tuple[float, float]
    proud: float
    engaged: float
    stands: float
    below: bool
    threaded: str = ""
    """The body that has the thread, where there is no nut."""

    @property
    def name(self) -> str:
        """'M5 x 16 ISO 4762'."""
        length = self.series.length_words(self.length)
        return f"{self.thread.name} x {length} {self.series.heads[self.kind]}"

    @property
    def words(self) -> str:
        """'M5 x 16 ISO 4762, nut ISO 4032, 2 washers ISO 7089: 2.9 threads proud'."""
        count = sum(self.washers)
        washers = f", {count} washer{'s' * (count > 1)} {self.series.washer}" if count else ""
        if self.engaged:
            share = self.engaged / self.thread.diameter
            return (
                f"{self.name}{washers}, thread in the last layer: {self.engaged:.1f} mm engaged"
                f" ({share:.1f} diameters), drill {self.thread.tap:g} mm"
            )
        return f"{self.name}, nut {self.series.nut}{washers}: {self.proud:.1f} threads proud"


@dataclass(frozen=True, slots=True)
class Fastening:
    """What is proposed for a pin, in lines, and what is wrong with its stack."""

    lines: tuple[str, ...]
    faults: tuple[str, ...]


def joints_on_axis(resolved: Resolved, poses: Floats, joint_id: str) -> tuple[model.Joint, ...]:
    """All joints that pin or hold bodies at the place of a pin joint, at poses (B, 3); none if it
    is no pin joint."""
    document = resolved.document
    ids = {body.id: k for k, body in enumerate(document.bodies)}

    def axis(joint: model.Joint) -> tuple[float, float]:
        k = ids[joint.second.body]
        return carried(poses[k], resolved.part_of(document.bodies[k]).places[joint.second.place])

    joint = next((each for each in document.joints if each.id == joint_id), None)
    if joint is None or not spec_of(joint.kind).is_pin:
        return ()
    at = axis(joint)
    return tuple(
        other
        for other in document.joints
        if (spec_of(other.kind).is_pin or other.kind == "rigid")
        and math.dist(axis(other), at) <= NEAR
    )


def pin_stack(resolved: Resolved, poses: Floats, joint_id: str) -> PinStack | None:
    """What lies on the axis of a pin joint at poses (B, 3): slabs of its bodies and of all that is
    pinned there too; None if it is no pin joint.

    Hardware that was made for a joint is no part of what it holds.
    """
    document = resolved.document
    found = joints_on_axis(resolved, poses, joint_id)
    if not found:
        return None
    ids = {body.id: k for k, body in enumerate(document.bodies)}
    joint = next(each for each in found if each.id == joint_id)
    k = ids[joint.second.body]
    at = carried(poses[k], resolved.part_of(document.bodies[k]).places[joint.second.place])
    bodies = {side.body for other in found for side in (other.first, other.second)}
    pieces = one_piece_sets(document)
    own = {body for hardware in resolved.source.hardware for body in hardware.bodies}
    layers = []
    for body in bodies - own:
        k = ids[body]
        local = np.array(within(poses[k], at))
        height = float(resolved.heights[k])
        for slab in resolved.part_of(document.bodies[k]).slabs:
            hole = _round_about(slab.region.contours[1:], local)
            solid = hole == 0.0 and bool(contains(slab.region, local[None])[0])
            if not (hole or solid):
                continue
            outside = _round_about(slab.region.contours[:1], local)
            layers.append(
                Layer(
                    body,
                    height + slab.bottom,
                    height + slab.top,
                    hole,
                    outside if solid else 0.0,
                    _wall(slab.region, local, hole) if hole else math.inf,
                    outside if hole else 0.0,
                    pieces[body],
                )
            )
    return PinStack(tuple(sorted(layers, key=lambda each: (each.bottom, each.top))))


def _wall(region: Region, at: Floats, hole: float) -> float:
    """mm of material round a hole about a place, to the outline or the next hole."""
    nearest = math.inf
    for contour in region.contours:
        circle = contour.circle
        if circle is not None and math.dist(circle[:2], at) <= NEAR and 2 * circle[2] <= hole:
            continue
        alone = Region.build(contour, (), ())
        nearest = min(nearest, float(outline_span(alone, at[None])[0][0]))
    return nearest - hole / 2


def _round_about(contours: tuple[Contour, ...], at: Floats) -> float:
    """Diameter of the smallest full circle about a place among contours, 0 if there is none."""
    circles = (contour.circle for contour in contours)
    found = [
        2 * circle[2]
        for circle in circles
        if circle is not None and math.dist(circle[:2], at) <= NEAR
    ]
    return min(found, default=0.0)


def screwed(
    stack: PinStack,
    kind: model.HeadKind,
    *,
    washers: int = 2,
    series: Series = METRIC,
    below: bool = False,
) -> Screwed | None:
    """The largest thread that passes all holes, and the shortest usual screw: with a nut it stands
    at least one thread proud of that; where the last layer is solid, or has the hole of its core,
    it goes at least its diameter into a thread there. None where there is none.

    The first of two ``washers`` lies under the nut; a countersunk head has none. ``below``: the
    head is at the lower end.
    """
    # All is reckoned as if the head were on top.
    layers = [_turned(layer) for layer in stack.layers] if below else list(stack.layers)
    found = _held(layers, series)
    if found is None or kind not in found[1].heads:
        return None
    held, thread, last = found
    sunk = kind == "countersunk"
    at_nut = min(washers, 1) if last is None else 0
    at_head = 0 if sunk else max(washers - 1, 0) if last is None else min(washers, 1)
    head = thread.heads[kind]
    outside = thread.washer_outside if at_head else head.diameter
    top = _seat(held, outside) if not sunk else max(layer.top for layer in held)
    upper = max(layer.top for layer in held)
    if last is not None:
        bottom = last.top
    else:
        across = thread.washer_outside if at_nut else 1.16 * thread.nut_flats
        bottom = -_seat([_turned(layer) for layer in held], across)
    grip = top - bottom
    thick = thread.washer_thickness
    if last is not None:
        length = next_length(thread, kind, grip + at_head * thick + thread.diameter, series)
        if length is None:
            return None
        engaged, proud = length - grip - at_head * thick, 0.0
    else:
        under = grip + (at_head + at_nut) * thick + thread.nut_height
        length = next_length(thread, kind, under + PROUD[0] * thread.pitch, series)
        if length is None:
            return None
        engaged, proud = 0.0, (length - under) / thread.pitch
    stands = 0.0 if sunk else top + at_head * thick + head.height - upper
    seats = (-top, -bottom) if below else (top, bottom)
    washers_at = at_head, at_nut
    threaded = last.body if last is not None else ""
    return Screwed(
        series, thread, kind, length, washers_at, seats, proud, engaged, stands, below, threaded
    )


def _held(
    layers: Sequence[Layer], series: Series
) -> tuple[Sequence[Layer], Thread, Layer | None] | None:
    """The layers that a screw passes, the largest that does, and the last layer if the thread is
    in it; None where no screw can be put."""
    last = min(layers, key=lambda layer: layer.bottom, default=None)
    rest = [layer for layer in layers if layer is not last]
    if last is None or any(not layer.hole for layer in rest):
        return None
    if rest:
        thread = thread_for(min(layer.hole for layer in rest), series)
        core = thread is not None and abs(last.hole - thread.tap) <= TAPPED
        if thread is not None and (core or not last.hole):
            return rest, thread, last
    if not last.hole:
        return None
    thread = thread_for(min(layer.hole for layer in layers), series)
    return None if thread is None else (layers, thread, None)


def _turned(layer: Layer) -> Layer:
    """A layer seen from below."""
    return replace(layer, bottom=-layer.top, top=-layer.bottom)


def _seat(layers: Sequence[Layer], across: float) -> float:
    """The height that something so wide comes to rest at from above: the highest face whose hole
    it does not go into."""
    blocked = [layer.top for layer in layers if layer.hole < across + SUNK]
    return max(blocked) if blocked else max(layer.top for layer in layers)


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


def series_for(resolved: Resolved) -> Series:
    """Threads in the units of the document."""
    return UNC if resolved.source.units.length in ("in", "thou") else METRIC


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


@dataclass(frozen=True, slots=True)
class Ringed:
    """A retaining ring on the free end of a pin: the pin, its ring by the table, the height of the
    face that it lies on and whether it lies above that; ``stands``: mm of pin beyond the stack."""

    pin: Layer
    diameter: float
    thick: float
    beyond: float
    seat: float
    is_above: bool
    stands: float

    @property
    def missing(self) -> float:
        """mm that the pin is too short for it."""
        return max(self.thick + self.beyond - self.stands, 0.0)

    @property
    def words(self) -> str:
        """'retaining ring DIN 471 8 x 0.8'."""
        return f"retaining ring DIN 471 {self.diameter:g} x {self.thick:g}"


def ringed(stack: PinStack) -> Ringed | None:
    """The ring that holds what sits on a pin; None without a pin of a usual size."""
    if not stack.pins or not stack.bored:
        return None
    pin, stands, is_above = _free_end(stack)
    size = round(pin.round, 6)
    if size not in RINGS:
        return None
    thick, _, beyond, _ = RINGS[size]
    faces = [layer.top for layer in stack.bored], [layer.bottom for layer in stack.bored]
    seat = max(faces[0]) if is_above else min(faces[1])
    return Ringed(pin, size, thick, beyond, seat, is_above, stands)


def gaps_in(stack: PinStack) -> tuple[tuple[float, float], ...]:
    """Heights (mm) between bored layers that nothing fills."""
    found = []
    reached = -math.inf
    for layer in stack.layers:
        if math.isfinite(reached) and layer.bottom > reached + TOUCH:
            found.append((reached, layer.bottom))
        reached = max(reached, layer.top)
    return tuple(found)


def _free_end(stack: PinStack) -> tuple[Layer, float, bool]:
    """The pin whose end stands out farther, by how much, and whether that is the upper end."""
    upper = max(stack.pins, key=lambda each: each.top)
    lower = min(stack.pins, key=lambda each: each.bottom)
    high = max(layer.top for layer in stack.bored)
    low = min(layer.bottom for layer in stack.bored)
    # Of its two ends the one that stands out farther is free.
    up, down = upper.top - high, low - lower.bottom
    is_above = up >= down or not _ends_free(stack, lower)
    return (upper, up, True) if is_above else (lower, down, False)


def _on_a_pin(stack: PinStack, mm: Words) -> list[str]:
    lines = [f"the pin stands {mm(max(_free_end(stack)[1], 0.0))} out of what sits on it"]
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


def _ends_free(stack: PinStack, pin: Layer) -> bool:
    """Whether nothing of its own body lies below a pin."""
    return not any(
        layer.body == pin.body and layer.top <= pin.bottom + TOUCH
        for layer in stack.layers
        if layer is not pin
    )


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
