"""Belts and chains round wheels as conditions: each run ties the turns and places of two wheels."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from anakinema.document.resolve import Resolved
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.features import Indices
from anakinema.geometry.poses import carried, transform, within
from anakinema.mechanism.axles import Axles
from anakinema.mechanism.fields import Run, over_run
from anakinema.mechanism.kernels import Kernel
from anakinema.mechanism.touch import Touch


@lru_cache(maxsize=8)
def wheels_on_axles(resolved: Resolved) -> Floats:
    """(B, 3) poses as drawn, but the wheels of a loop on their axles if one body has all of those.

    Then nothing can take up a length: the loop is as long as those axles are apart, wherever the
    wheels were drawn before an edit moved them. Otherwise it is as long as drawn, and takes up.
    """
    document, poses = resolved.document, resolved.poses
    if not document.belts:
        return poses
    index = {body.id: k for k, body in enumerate(document.bodies)}
    known = Axles(resolved)
    for belt in document.belts:
        sides = [wheel.sides(document.joint(wheel.joint))[0] for wheel in belt.wheels]
        axles = known.on_one_body(sides)
        if axles is None:
            continue
        poses = poses.copy()
        for side, axle in zip(sides, axles, strict=True):
            k = index[side.body]
            place = resolved.part_of(document.bodies[k]).places[side.place]
            poses[k, :2] += np.subtract(axle, carried(poses[k], place))
    return poses


@lru_cache(maxsize=8)  # asked for the same document at every painting
def belt_runs(resolved: Resolved) -> tuple[tuple[Touch, ...], ...]:
    """The runs of each loop of a document, as long as with its wheels on their axles, or to the
    length that is stated.

    Raises a `ValueOutOfRangeError` if two neighbouring wheels leave no room for a run.
    """
    index = {body.id: k for k, body in enumerate(resolved.document.bodies)}
    poses = wheels_on_axles(resolved)
    out: list[tuple[Touch, ...]] = []
    for belt, values in zip(resolved.document.belts, resolved.belts, strict=True):
        sides = [wheel.sides(resolved.document.joint(wheel.joint))[0] for wheel in belt.wheels]
        bodies = [index[side.body] for side in sides]
        places = [
            resolved.part_of(resolved.document.bodies[b]).places[side.place][:2]
            for b, side in zip(bodies, sides, strict=True)
        ]
        runs: list[Touch] = []
        for i in range(len(bodies)):
            j = (i + 1) % len(bodies)
            run = Run(values.radii[i], values.radii[j])
            seen, turn = _seen(poses, bodies[i], bodies[j], places[i], places[j])
            if float(np.hypot(*seen)) <= abs(run.across):
                raise ValueOutOfRangeError(
                    "two wheels next to one another leave no room for it.",
                    where=f"belt '{belt.title}'",
                    remedy="Move them apart, give them less radius, or change their order.",
                )
            drawn = float(over_run(run, seen[None], np.array([turn])).value[0])
            runs.append(
                Touch(
                    Kernel.RUN, bodies[i], bodies[j], places[i], places[j], curve=run, target=drawn
                )
            )
        if values.length is not None:
            more = values.length - drawn_length(poses, runs)
            runs[0] = replace(runs[0], target=runs[0].target + more)
        out.append(tuple(runs))
    return tuple(out)


def _seen(
    poses: Floats, first: int, second: int, one: tuple[float, float], two: tuple[float, float]
) -> tuple[Floats, float]:
    """The second centre (2,) seen from the first in the first body's frame, and its turn."""
    a, b = poses[first], poses[second]
    wheel = within((*carried(a, one), float(a[2])), carried(b, two))
    return np.array(wheel), float(b[2] - a[2])


@dataclass(frozen=True, slots=True, eq=False)
class Lay:
    """How a loop of W wheels lies at N poses.

    centres : (N, W, 2) mm of its wheels; radii : (W,) mm, below zero where its back runs;
    ends : (N, W, 2, 2) mm, where the run behind each wheel leaves it and arrives at the next;
    lengths : (N, W) mm of those runs; directions : (N, W) rad, theirs;
    wraps : (N, W) rad by which it turns on each wheel, its own way and by less than a full turn.
    """

    centres: Floats
    radii: Floats
    ends: Floats
    lengths: Floats
    directions: Floats
    wraps: Floats

    def taken(self, rows: Indices) -> Lay:
        """How it lies at some of the poses."""
        return Lay(
            self.centres[rows],
            self.radii,
            self.ends[rows],
            self.lengths[rows],
            self.directions[rows],
            self.wraps[rows],
        )


def lay(runs: Sequence[Touch], poses: Floats) -> Lay:
    """How a loop with these runs lies at poses (N, B, 3)."""
    centres = np.concatenate(
        [transform(np.array([run.first_point]), poses[:, run.first]) for run in runs], axis=1
    )
    curves = [run.curve for run in runs if isinstance(run.curve, Run)]
    radii = np.array([curve.first for curve in curves])
    after = np.roll(centres, -1, axis=1)
    tangents = [curve.tangent(after[:, k] - centres[:, k]) for k, curve in enumerate(curves)]
    lengths, directions = (np.stack(each, axis=1) for each in zip(*tangents, strict=True))
    left = np.stack([-np.sin(directions), np.cos(directions)], axis=2)
    leaves = centres - radii[:, None] * left
    arrives = after - np.roll(radii, -1)[:, None] * left
    turned = directions - np.roll(directions, 1, axis=1)
    wraps = np.where(radii > 0, turned % math.tau, -((-turned) % math.tau))
    return Lay(centres, radii, np.stack([leaves, arrives], axis=2), lengths, directions, wraps)


def drawn_length(poses: Floats, runs: Sequence[Touch]) -> float:
    """mm: length of a loop at poses (B, 3), its runs and what lies on its wheels."""
    laid = lay(runs, poses[None])
    return float(np.sum(laid.lengths + laid.radii * laid.wraps))
