"""What holds the layers of a pin together: a screw with nut and washers, or into a thread at the
far end; or a retaining ring on a pin that is part of a body."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from anakinema.authoring.pin_stacks import TOUCH, Layer, PinStack
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.parts.fasteners import METRIC, RINGS, UNC, Series, Thread, next_length, thread_for

PROUD = 1.0, 3.0
"""Threads that a screw stands out of its nut, least and most (common practice, no source)."""
TAPPED = 0.15
"""mm by which a hole may differ from the core of a thread and be one."""
SUNK = 0.4
"""mm by which a hole is wider than a head, or a washer, that goes into it."""


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


def series_for(resolved: Resolved) -> Series:
    """Threads in the units of the document."""
    return UNC if resolved.source.units.length in ("in", "thou") else METRIC


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
    pin, stands, is_above = free_end(stack)
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


def free_end(stack: PinStack) -> tuple[Layer, float, bool]:
    """The pin whose end stands out farther, by how much, and whether that is the upper end."""
    upper = max(stack.pins, key=lambda each: each.top)
    lower = min(stack.pins, key=lambda each: each.bottom)
    high = max(layer.top for layer in stack.bored)
    low = min(layer.bottom for layer in stack.bored)
    # Of its two ends the one that stands out farther is free.
    up, down = upper.top - high, low - lower.bottom
    is_above = up >= down or not _ends_free(stack, lower)
    return (upper, up, True) if is_above else (lower, down, False)


def _ends_free(stack: PinStack, pin: Layer) -> bool:
    """Whether nothing of its own body lies below a pin."""
    return not any(
        layer.body == pin.body and layer.top <= pin.bottom + TOUCH
        for layer in stack.layers
        if layer is not pin
    )
