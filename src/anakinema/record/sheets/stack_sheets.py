"""The stack seen at an angle: pulled apart along the pins, and put together step by step."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

from anakinema.depth.exploding import Stack, Standing, from_below, lifts, stack_of, steps, trails
from anakinema.depth.placed import Prism, placed_slabs
from anakinema.document.kinds import spec_of
from anakinema.record.sheets.axonometric import SIGHT, seen, seen_box
from anakinema.record.sheets.layout import (
    APART,
    HIGH,
    LEFT,
    MARGIN,
    balloon,
    scale_for,
    shortened,
    spread,
)
from anakinema.record.sheets.paper import THIN, Mark, Place, Text, moved, straight
from anakinema.record.sheets.papers import PAPERS, papers_up_to
from anakinema.record.sheets.sheet import Drawn, Leaf
from anakinema.record.sheets.views import fitted

GAP = 0.09
"""Of the size of the whole, what bodies are pulled apart by."""
ENOUGH = 1.0
CELL = 88.0, 74.0
"""mm, the room of the picture of a step with its words."""
WORDS = 16.0
MOST = 40
"""Bodies in the picture of a step; of more only those that the new ones have to do with."""


def exploded_sheet(drawn: Drawn) -> Iterator[Leaf]:
    """One sheet, of anything that has an outline."""
    resolved = drawn.evaluation.resolved
    stack = stack_of(placed_slabs(resolved, drawn.poses))
    order = stack.order
    if not order:
        return
    raised = lifts(stack, _gap(order))
    prisms = _prisms(order, raised)
    box = seen_box(prisms)
    aside = 26, 8, 26, 8
    fit = fitted(box, drawn.settings.paper, aside, ENOUGH, to_scale=False)
    lines = trails(resolved, drawn.poses, order, raised)
    marks = seen(prisms, lines, fit.scale, fit.shift)
    items = {row.id: row.item for row in drawn.rows}
    tips: dict[int, Place] = {}
    for one in reversed(order):
        item = items.get(resolved.document.bodies[one.body].part)
        if item is not None and item not in tips:
            top = max(one.slabs, key=lambda s: (s.top, s.polygon.area))
            point = top.polygon.representative_point()
            u, v = SIGHT.projected(point.x, point.y, top.top + raised[one.body])
            tips[item] = fit.on_paper(u, v)
    across = sorted(tips, key=lambda item: tips[item][0])
    left, right = fit.on_paper(box[0], 0.0)[0] - 16, fit.on_paper(box[2], 0.0)[0] + 16
    half = len(across) // 2
    sides = (left, across[:half]), (right, across[half:])
    for x, some in sides:
        rising = sorted(some, key=lambda item: tips[item][1])
        heights = spread([tips[i][1] for i in rising], APART, fit.room[1] + 6, fit.room[3] - 6)
        for item, y in zip(rising, heights, strict=True):
            marks += balloon((x, y), tips[item], item)
    yield Leaf(
        "exploded",
        "Exploded view",
        "Exploded along the pins",
        fit.paper,
        tuple(marks),
        "none",
        note="Seen at an angle: not for measuring.",
    )


def _gap(order: Sequence[Standing]) -> float:
    size = max(
        math.hypot(b.plan.bounds[2] - b.plan.bounds[0], b.plan.bounds[3] - b.plan.bounds[1])
        for b in order
    )
    return GAP * size


def _prisms(
    order: Sequence[Standing], raised: Mapping[int, float], faint: frozenset[int] = frozenset()
) -> list[Prism]:
    return [
        Prism(slab, raised.get(one.body, 0.0), one.body in faint)
        for one in order
        for slab in one.slabs
    ]


def step_sheets(drawn: Drawn) -> Iterator[Leaf]:
    """A picture for each part that goes on, new ones standing out, quantities beside."""
    resolved = drawn.evaluation.resolved
    stack = stack_of(placed_slabs(resolved, drawn.poses))
    found = steps(resolved, stack)
    if len(stack.order) < 2:
        return
    paper = papers_up_to(drawn.settings.paper)[0]
    width, height = PAPERS[paper]
    columns = int((width - LEFT - MARGIN) / CELL[0])
    lines = int((height - 2 * MARGIN - HIGH) / CELL[1])
    each = columns * lines
    for first in range(0, len(found), each):
        marks: list[Mark] = []
        for k in range(min(each, len(found) - first)):
            x = LEFT + (k % columns) * (width - LEFT - MARGIN) / columns
            y = height - MARGIN - (k // columns + 1) * CELL[1]
            number = first + k + 1
            picture = _picture(drawn, stack, found[:number], number)
            marks += [moved(mark, x, y) for mark in picture]
        page = first // each + 1
        yield Leaf(
            f"steps/{page}",
            "Assembly steps" if page == 1 else f"Assembly steps {page}",
            "Assembly steps",
            paper,
            tuple(marks),
        )


def _picture(
    drawn: Drawn, stack: Stack, done: Sequence[tuple[int, ...]], number: int
) -> list[Mark]:
    """The last of some steps in a cell whose lower left corner is the origin."""
    resolved = drawn.evaluation.resolved
    new = frozenset(done[-1])
    present = frozenset(body for step in done for body in step)
    if len(present) > MOST:
        present = new | (present & _beside(drawn, stack, new))
    some = [one for one in stack.order if one.body in present]
    gap = _gap(some) * 1.3
    lower = from_below(resolved, stack)
    raised = {body: -gap if body in lower else gap for body in new} if present > new else {}
    prisms = _prisms(some, raised, present - new)
    box = seen_box(prisms)
    room = CELL[0] - 6, CELL[1] - WORDS - 4
    scale = scale_for(box[2] - box[0], box[3] - box[1], room)
    # Pictures fill their cells: nobody measures them.
    scale = min(room[0] / (box[2] - box[0]), room[1] / (box[3] - box[1]), 4 * scale)
    shift = (
        3 + (room[0] - (box[2] - box[0]) * scale) / 2 - box[0] * scale,
        WORDS + (room[1] - (box[3] - box[1]) * scale) / 2 - box[1] * scale,
    )
    lines = trails(resolved, drawn.poses, some, raised, new)
    marks = seen(prisms, lines, scale, shift)
    if new <= lower.keys() and raised:
        # What comes from below would be hidden by what it is put on.
        own = [one for one in some if one.body in new]
        marks += seen(_prisms(own, raised), [], scale, shift)
    row = next(r for r in drawn.rows if r.id == resolved.document.bodies[min(new)].part)
    marks += [
        straight((0, 0), (CELL[0], 0), pen=THIN),
        Text((4, 7.5), str(number), 6.0, strong=True),
        Text((16, 9.5), shortened(f"{len(new)} x item {row.item}, {row.title}", 2.8, 70), 2.8),
        Text((16, 4.5), shortened(_onto(drawn, new, present), 2.3, 70), 2.3),
    ]
    return marks


def _beside(drawn: Drawn, stack: Stack, new: frozenset[int]) -> frozenset[int]:
    """What some bodies lie on, reach through or are joined to."""
    index = {body.id: k for k, body in enumerate(drawn.evaluation.resolved.document.bodies)}
    pairs = [
        {index[joint.first.body], index[joint.second.body]}
        for joint in drawn.evaluation.resolved.document.joints
    ]
    joined = [pair for pair in pairs if pair & new]
    return frozenset().union(*joined, *(stack.under.get(body, frozenset()) for body in new))


def _onto(drawn: Drawn, new: frozenset[int], present: frozenset[int]) -> str:
    """What joins the new ones to those that are there: 'on rod, by rocker pin'."""
    resolved = drawn.evaluation.resolved
    bodies = resolved.document.bodies
    index = {body.id: k for k, body in enumerate(bodies)}
    found = []
    for joint in resolved.document.joints:
        pair = {index[joint.first.body], index[joint.second.body]}
        others = pair - new
        if pair & new and len(others) == 1 and others <= present:
            other = bodies[others.pop()]
            found.append(f"{spec_of(joint.kind).words} to {other.title}: {joint.title}")
    return "; ".join(found) or ("the first" if len(present) == len(new) else "laid on")
