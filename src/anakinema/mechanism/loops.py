"""Belts and chains round wheels as conditions: each run ties the turns and places of two wheels."""

from __future__ import annotations

import math

import numpy as np

from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.fields import Run, field
from anakinema.mechanism.kernels import Kernel
from anakinema.mechanism.touch import Touch


def loop_runs(resolved: Resolved) -> tuple[Touch, ...]:
    """The runs of all loops of a document, each as long as drawn, or to the length that is told.

    Raises a `ValueOutOfRangeError` if two neighbouring wheels leave no room for a run.
    """
    index = {body.id: k for k, body in enumerate(resolved.document.bodies)}
    out: list[Touch] = []
    for loop, values in zip(resolved.document.loops, resolved.loops, strict=True):
        sides = [resolved.document.joint(wheel.joint).second for wheel in loop.wheels]
        bodies = [index[side.body] for side in sides]
        places = [
            resolved.part_of(resolved.document.bodies[b]).places[side.place][:2]
            for b, side in zip(bodies, sides, strict=True)
        ]
        runs: list[Touch] = []
        for i in range(len(bodies)):
            j = (i + 1) % len(bodies)
            run = Run(values.radii[i], values.radii[j])
            seen, turn = _seen(resolved.poses, bodies[i], bodies[j], places[i], places[j])
            if float(np.hypot(*seen)) <= abs(run.across):
                raise ValueOutOfRangeError(
                    "two wheels next to one another leave no room for it.",
                    where=f"loop '{loop.title}'",
                    remedy="Move them apart, give them less radius, or change their order.",
                )
            drawn = float(field(Kernel.RUN, run, seen[None], np.array([turn])).value[0])
            runs.append(
                Touch(Kernel.RUN, bodies[i], bodies[j], places[i], places[j], curve=run,
                      target=drawn)
            )  # fmt: skip
        if values.length is not None:
            more = values.length - drawn_length(resolved, runs)
            first = runs[0]
            runs[0] = Touch(
                Kernel.RUN, first.first, first.second, first.first_point, first.second_point,
                curve=first.curve, target=first.target + more,
            )  # fmt: skip
        out += runs
    return tuple(out)


def _seen(
    poses: Floats, first: int, second: int, one: tuple[float, float], two: tuple[float, float]
) -> tuple[Floats, float]:
    """The second centre (2,) seen from the first in the first body's frame, and its turn."""
    a, b = poses[first], poses[second]
    c1, s1, c2, s2 = math.cos(a[2]), math.sin(a[2]), math.cos(b[2]), math.sin(b[2])
    dx = b[0] + c2 * two[0] - s2 * two[1] - a[0] - c1 * one[0] + s1 * one[1]
    dy = b[1] + s2 * two[0] + c2 * two[1] - a[1] - s1 * one[0] - c1 * one[1]
    return np.array([c1 * dx + s1 * dy, -s1 * dx + c1 * dy]), float(b[2] - a[2])


def drawn_length(resolved: Resolved, runs: list[Touch]) -> float:
    """mm: length of a loop as drawn, its runs and what lies on its wheels."""
    total, directions = 0.0, []
    for run in runs:
        seen, _ = _seen(resolved.poses, run.first, run.second, run.first_point, run.second_point)
        assert isinstance(run.curve, Run)
        along, direction = run.curve.tangent(seen[None])
        total += float(along[0])
        directions.append(float(direction[0]) + float(resolved.poses[run.first][2]))
    for k, run in enumerate(runs):
        assert isinstance(run.curve, Run)
        radius = run.curve.first
        turned = directions[k] - directions[k - 1]
        # On a wheel the loop turns its way by less than a full turn.
        wrap = turned % math.tau if radius > 0 else -((-turned) % math.tau)
        total += radius * wrap
    return total
