"""What the runs of belts and chains pass: slabs of other bodies at their heights."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidSlab
from anakinema.mechanism.fields import Run
from anakinema.mechanism.slab_pairs import TOUCHING_FACES
from anakinema.mechanism.touch import Touch


@dataclass(frozen=True, slots=True)
class Seat:
    """Where a wheel is carried: the body that carries it, and the place on that (mm)."""

    body: int
    place: tuple[float, float]


@dataclass(frozen=True, slots=True, eq=False)
class BeltPair:
    """The ``run`` of a ``loop`` that leaves body ``wheel``, past a slab of ``body``.

    shape, seats : the run itself, and the seats of the wheel it leaves and of the next.
    half : mm, half the loop's thickness. With ``before``, the run that arrives at the wheel, what
    lies on the wheel is meant; the seat of the wheel before then stands in front of the others.
    """

    belt: int
    run: int
    wheel: int
    shape: Run
    seats: tuple[Seat, ...]
    half: float
    body: int
    slab: SolidSlab
    before: Run | None = None


def belt_pairs(resolved: Resolved, belts: Sequence[Sequence[Touch]]) -> tuple[BeltPair, ...]:
    """All slabs that share the heights which all wheels of a loop share.

    A run is not compared with its own two wheels, nor with the pieces that the loop's wheels
    turn on; nor what lies on a wheel with that wheel.
    """
    document = resolved.document
    index = {body.id: k for k, body in enumerate(document.bodies)}
    found: list[BeltPair] = []
    for k, (belt, runs) in enumerate(zip(document.belts, belts, strict=True)):
        carriers = [wheel.sides(document.joint(wheel.joint))[1] for wheel in belt.wheels]
        seats = [_seat(resolved, side, index[side.body]) for side in carriers]
        half = resolved.belts[k].thickness / 2
        shafts = {(index[side.body], piece.slab) for side in carriers for piece in side.pieces}
        low, high = _heights(resolved, [run.first for run in runs])
        plane = resolved.planes.of[runs[0].first]
        for body, slab in _slabs_between(resolved, low, high):
            if (body, slab.id) in shafts or resolved.planes.of[body] != plane:
                continue
            for r, run in enumerate(runs):
                if isinstance(run.curve, Run) and body not in (run.first, run.second):
                    ends = seats[r], seats[(r + 1) % len(runs)]
                    found.append(BeltPair(k, r, run.first, run.curve, ends, half, body, slab))
                before = runs[r - 1].curve
                if not (isinstance(run.curve, Run) and isinstance(before, Run)):
                    continue
                if body != run.first:
                    around = seats[r - 1], seats[r], seats[(r + 1) % len(runs)]
                    found.append(
                        BeltPair(k, r, run.first, run.curve, around, half, body, slab, before)
                    )
    return tuple(found)


def _seat(resolved: Resolved, side: model.Side, body: int) -> Seat:
    x, y, _ = resolved.part_of(resolved.document.bodies[body]).places[side.place]
    return Seat(body, (x, y))


def _slabs_between(resolved: Resolved, low: float, high: float) -> list[tuple[int, SolidSlab]]:
    """Slabs, each with its body, that reach into some heights (mm)."""
    return [
        (k, slab)
        for k, body in enumerate(resolved.document.bodies)
        for slab in resolved.part_of(body).slabs
        if min(high, resolved.heights[k] + slab.top) - max(low, resolved.heights[k] + slab.bottom)
        > TOUCHING_FACES
    ]


def _heights(resolved: Resolved, wheels: Sequence[int]) -> tuple[float, float]:
    """mm: heights that all wheels of a loop share; all there are if no wheel has a slab."""
    low, high = -math.inf, math.inf
    for wheel in wheels:
        slabs = resolved.part_of(resolved.document.bodies[wheel]).slabs
        if slabs:
            low = max(low, resolved.heights[wheel] + min(slab.bottom for slab in slabs))
            high = min(high, resolved.heights[wheel] + max(slab.top for slab in slabs))
    return low, high
