"""Which body goes on after which, and how far each is raised so that all can be seen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from anakinema.analysis.places import places_at
from anakinema.depth.placed import PlacedSlab, Trail
from anakinema.document.kinds import Way, spec_of
from anakinema.document.resolve import Resolved
from anakinema.geometry.contour import Floats

SAME = 1e-6
"""mm by which heights are one."""


@dataclass(frozen=True, slots=True)
class Standing:
    """A body in the stack: its slabs, faces mm, and its outline from above with holes filled."""

    body: int
    slabs: tuple[PlacedSlab, ...]
    bottom: float
    top: float
    plan: shapely.Geometry

    @property
    def has_head_below(self) -> bool:
        """Whether its widest slab is the lowest of several, as of a screw put in from below."""
        widest = max(self.slabs, key=lambda slab: slab.polygon.area)
        return len(self.slabs) > 1 and widest.bottom <= self.bottom + SAME


@dataclass(frozen=True, slots=True)
class Stack:
    """Bodies in the order they go on, and by body those that it lies over or reaches through."""

    order: tuple[Standing, ...]
    under: Mapping[int, frozenset[int]]


def stack_of(slabs: Sequence[PlacedSlab]) -> Stack:
    """Bodies that have an outline: the lowest first; what reaches through others, as a pin does,
    after all that it reaches through."""
    by_body: dict[int, list[PlacedSlab]] = {}
    for slab in slabs:
        by_body.setdefault(slab.body, []).append(slab)
    bodies = []
    for body, own in by_body.items():
        plan = shapely.union_all([shapely.Polygon(s.polygon.exterior) for s in own])
        low, high = min(s.bottom for s in own), max(s.top for s in own)
        bodies.append(Standing(body, tuple(own), low, high, plan))
    bodies.sort(key=lambda b: (b.bottom, b.top, b.body))
    under: dict[int, set[int]] = {each.body: set() for each in bodies}
    over: dict[int, set[int]] = {each.body: set() for each in bodies}
    plans = np.array([each.plan for each in bodies], dtype=object)
    for i, j in shapely.STRtree(plans).query(plans, predicate="intersects").T.tolist():
        if i != j and _is_above(bodies[i], bodies[j]):
            under[bodies[i].body].add(bodies[j].body)
            over[bodies[j].body].add(bodies[i].body)
    left, order = list(bodies), []
    waits = {body: set(below) for body, below in under.items()}
    while left:
        # Where bodies hold one another down there is no such order: then the lowest is next.
        chosen = next((each for each in left if not waits[each.body]), left[0])
        order.append(chosen)
        left.remove(chosen)
        for body in over[chosen.body]:
            waits[body].discard(chosen.body)
    return Stack(tuple(order), {body: frozenset(below) for body, below in under.items()})


def _is_above(one: Standing, other: Standing) -> bool:
    """Whether a body goes on after another: it lies over it, or is the smaller of two that reach
    through one another, unless its head is below."""
    if one.plan.intersection(other.plan).area < SAME:
        return False
    if one.bottom >= other.top - SAME:
        return True
    if other.bottom >= one.top - SAME:
        return False
    smaller = (one.plan.area, one.body) < (other.plan.area, other.body)
    return smaller != (one if smaller else other).has_head_below


def lifts(stack: Stack, gap: float) -> dict[int, float]:
    """mm by which each body is raised so that it is ``gap`` above all that it lies over or reaches
    through; what lies over nothing stays."""
    found: dict[int, float] = {}
    tops: dict[int, float] = {}
    for one in stack.order:
        below = [tops[body] + gap - one.bottom for body in stack.under[one.body] if body in tops]
        found[one.body] = max([0.0, *below])
        tops[one.body] = one.top + found[one.body]
    return found


def trails(
    resolved: Resolved,
    poses: Floats,
    order: Sequence[Standing],
    raised: Mapping[int, float],
    shown: frozenset[int] | None = None,
) -> list[Trail]:
    """Lines between the bodies that a pin joins, over its place, of ``shown`` bodies if given."""
    index = {body.id: k for k, body in enumerate(resolved.document.bodies)}
    by_body = {each.body: each for each in order}
    where = places_at(resolved, poses)
    found: list[Trail] = []
    for joint in resolved.document.joints:
        bodies = [index[side.body] for side in (joint.first, joint.second)]
        if spec_of(joint.kind).way is not Way.POINT or any(b not in by_body for b in bodies):
            continue
        if shown is not None and not shown & set(bodies):
            continue
        x, y = where(joint.second)
        low, high = sorted(
            (by_body[b] for b in bodies), key=lambda s: s.bottom + raised.get(s.body, 0.0)
        )
        ends = low.top + raised.get(low.body, 0.0), high.bottom + raised.get(high.body, 0.0)
        if ends[1] > ends[0] + SAME:
            found.append(Trail(x, y, *ends))
    return found


def from_below(resolved: Resolved, stack: Stack) -> dict[int, int]:
    """Hardware that is put on from below, and the body after which: nuts and washers at the lower
    end of a screw after that; a screw with its head below after the last that it reaches
    through."""
    index = {body.id: k for k, body in enumerate(resolved.document.bodies)}
    by_body = {each.body: each for each in stack.order}
    found: dict[int, int] = {}
    for hardware in resolved.source.hardware:
        own = [by_body[index[b]] for b in hardware.bodies if index.get(b) in by_body]
        if not own:
            continue
        screw, rest = own[0], own[1:]
        if hardware.below:
            over = [each for each in stack.order if screw.body in stack.under[each.body]]
            reached = [each.body for each in over if each.bottom < screw.top - SAME]
            if reached:
                found[screw.body] = reached[-1]
            continue
        middle = (screw.bottom + screw.top) / 2
        found |= {each.body: screw.body for each in rest if each.top < middle}
    return found


def steps(resolved: Resolved, stack: Stack) -> list[tuple[int, ...]]:
    """Bodies that go on one after the other; alike ones that follow one another at once, unless
    one goes on another. What is put on from below comes when that which holds it is there."""
    found: list[tuple[int, ...]] = []
    bodies = resolved.document.bodies
    late = from_below(resolved, stack)
    order: list[Standing] = []

    def put(one: Standing) -> None:
        order.append(one)
        under = [each for each in stack.order if late.get(each.body) == one.body]
        for each in sorted(under, key=lambda each: -each.top):
            put(each)

    for one in stack.order:
        if one.body not in late:
            put(one)
    for one in order:
        last = found[-1] if found else ()
        alike = last and bodies[last[0]].part == bodies[one.body].part
        if alike and not stack.under[one.body] & set(last):
            found[-1] = (*last, one.body)
        else:
            found.append((one.body,))
    return found
