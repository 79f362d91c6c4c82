"""The path of a point, kept to be drawn, and how the point moves along it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from anakinema.analysis.places import place_path, place_rates
from anakinema.authoring.snap_points import PlacedSnap
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Add
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.motion.motion import Motion

MARKS = 24
"""Time marks on a path, or fewer."""
STEPS = (1.0, 2.0, 5.0, 10.0)
HALVINGS = 60
CUSP = 1e-5
"""Share of its greatest speed (by progress) at which a point stands in a cusp."""
STRAIGHT = 50.0
"""Lengths of its path from which on a radius of curvature is that of a line."""


@dataclass(frozen=True, slots=True, eq=False)
class Trace:
    """The path of a point over the motion, mm.

    points : (N, 2). marks : (K, 2), at even times, every ``step`` s. cusps : (C, 2).
    fastest, hardest : the greatest speed (mm/s) and acceleration (mm/s²) at the steps.
    """

    id: str
    title: str
    place: model.Side
    points: Floats
    marks: Floats
    step: float
    cusps: Floats
    fastest: float
    hardest: float


@dataclass(frozen=True, slots=True, eq=False)
class TracedPoint:
    """A traced point at one pose: place (mm), velocity (mm/s), acceleration (mm/s²).

    centre, radius : of the circle that follows the path there; None where it is straight.
    pole : the place about which its body turns just now; None where it does not turn.
    """

    at: Floats
    velocity: Floats
    acceleration: Floats
    centre: Floats | None
    radius: float | None
    pole: Floats | None


def trace_of(resolved: Resolved, snap: PlacedSnap) -> Edit:
    """The edit that keeps the path of a place, its part given the place if it has it not."""
    document = resolved.document
    body = document.body(snap.body)
    edits: list[Edit] = []
    if not snap.snap.known:
        edits.append(AddPlaces(body.part, (snap.snap.place,)))
    edits.append(_kept(resolved, body, snap.snap.place.id))
    return Together("Trace a path", tuple(edits))


def trace_place(resolved: Resolved, body: str, place: str) -> Edit:
    """The edit that keeps the path of a place of a body."""
    return _kept(resolved, resolved.document.body(body), place)


def _kept(resolved: Resolved, body: model.Body, place: str) -> Add:
    name = f"Path of {body.title}, {place.replace('_', ' ')}"
    taken = [each.id for each in resolved.source.measures]
    measure = model.PathMeasure(kind="path", place=model.Side(body=body.id, place=place))
    kept = model.KeptMeasure(id=fresh_id(name, taken), name=name, measure=measure)
    return Add("Trace a path", measures=(kept,))


def traced_places(document: model.Document, body: str) -> dict[str, str]:
    """Places of a body whose paths are kept, with the ids of the measures."""
    return {
        kept.measure.place.place: kept.id
        for kept in document.measures
        if isinstance(kept.measure, model.PathMeasure) and kept.measure.place.body == body
    }


def kept_paths(evaluation: Evaluation) -> tuple[Trace, ...]:
    """All kept paths of a motion."""
    if not evaluation.motion.stages or len(evaluation.motion.progress) < 2:
        return ()
    return tuple(_paths(evaluation))


def _paths(evaluation: Evaluation) -> Iterator[Trace]:
    resolved, motion = evaluation.resolved, evaluation.motion
    for kept in evaluation.document.measures:
        if not isinstance(kept.measure, model.PathMeasure):
            continue
        side = kept.measure.place
        points = place_path(resolved, side, motion.poses)
        step = _step(motion.timing.total)
        times = np.arange(0.0, motion.time(motion.progress[-1:])[0] + 1e-9, step)
        at = np.array([motion.timing.progress_at(float(t)) for t in times])
        marks = place_path(resolved, side, motion.poses_at(np.clip(at, 0.0, motion.last)))
        cusps, fastest, hardest = np.empty((0, 2)), 0.0, 0.0
        if motion.segments:
            cusps = _cusps(resolved, motion, side)
            velocity, acceleration = _in_time(resolved, motion, side, motion.progress)
            fastest, hardest = (
                float(np.nanmax(np.hypot(*each.T), initial=0.0))
                for each in (velocity, acceleration)
            )
        yield Trace(kept.id, kept.title, side, points, marks, step, cusps, fastest, hardest)


def _step(total: float) -> float:
    raw = max(total, 1e-6) / MARKS
    power = 10.0 ** math.floor(math.log10(raw))
    return next(power * s for s in STEPS if power * s >= raw * (1 - 1e-9))


def _in_time(
    resolved: Resolved, motion: Motion, side: model.Side, progress: Floats
) -> tuple[Floats, Floats]:
    """(N, 2) velocity and acceleration: q' p' and q'' p'² + q' p'' (the chain rule)."""
    _, first, second = place_rates(resolved, side, motion.at(progress))
    speed, change = (each[:, None] for each in motion.progress_rates(progress))
    return first * speed, second * speed**2 + first * change


def _cusps(resolved: Resolved, motion: Motion, side: model.Side) -> Floats:
    """(C, 2) where a point stands while the driver goes on, closed in on between steps."""
    _, first, _ = place_rates(resolved, side, motion.samples)
    speed = np.hypot(*first.T)
    most = float(np.nanmax(speed, initial=0.0))
    if not most > 0.0 or np.isnan(speed).any():
        return np.empty((0, 2))
    k = np.flatnonzero((speed[1:-1] <= speed[:-2]) & (speed[1:-1] <= speed[2:])) + 1
    low, high = motion.progress[k - 1], motion.progress[k + 1]
    # A speed has its least in a bracket where it falls before and rises after.
    for _ in range(HALVINGS if len(k) else 0):
        one, two = low + 0.382 * (high - low), low + 0.618 * (high - low)
        slower = _speed(resolved, motion, side, one) < _speed(resolved, motion, side, two)
        low, high = np.where(slower, low, one), np.where(slower, two, high)
    at = np.concatenate([[0.0], (low + high) / 2, [motion.last]])
    at = at[_speed(resolved, motion, side, at) < CUSP * most]
    if not len(at):
        return np.empty((0, 2))
    found = place_path(resolved, side, motion.poses_at(at))
    # Of a closed cycle both ends are one.
    same = len(at) > 1 and np.hypot(*(found[0] - found[-1])) < CUSP * np.ptp(found)
    return found[:-1] if same else found


def _speed(resolved: Resolved, motion: Motion, side: model.Side, progress: Floats) -> Floats:
    return np.asarray(np.hypot(*place_rates(resolved, side, motion.at(progress))[1].T))


def traced_point(evaluation: Evaluation, trace: Trace, progress: float) -> TracedPoint | None:
    """How the point of a trace moves at a progress; None where a pose is singular."""
    resolved, motion = evaluation.resolved, evaluation.motion
    if not motion.segments:
        return None
    at = motion.at(np.array([progress]))
    point, first, second = (each[0] for each in place_rates(resolved, trace.place, at))
    if not (np.isfinite(first).all() and np.isfinite(second).all()):
        return None
    velocity, acceleration = (
        each[0] for each in _in_time(resolved, motion, trace.place, at.progress)
    )
    across = first[0] * second[1] - first[1] * second[0]
    speed = float(np.hypot(*first))
    centre, radius = None, None
    size = float(np.ptp(trace.points, axis=0).max()) or 1.0
    if speed > 0.0 and abs(across) * STRAIGHT * size > speed**3:
        radius = speed**3 / abs(across)
        # Of the circle that has the path's direction and bend there.
        centre = point + speed**2 / across * np.array([-first[1], first[0]])
    body = [each.id for each in resolved.document.bodies].index(trace.place.body)
    spin = float(at.first[0, body, 2])
    pole = None
    if abs(spin) * STRAIGHT * size > speed:
        pole = point + np.array([-first[1], first[0]]) / spin
    return TracedPoint(point, velocity, acceleration, centre, radius, pole)
