"""Sweeps against solving pose by pose, against closed forms, and against their own size."""

from __future__ import annotations

import itertools
import time
from itertools import pairwise

import numpy as np
from scipy.optimize import fsolve
from tests import mechanisms as build

from anakinema.edits.values import SetDimension, SetLimit, SetParameter
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate, first_look
from anakinema.geometry.contour import Floats
from anakinema.mechanism.system import System
from anakinema.motion.branch_path import Path
from anakinema.motion.dense import solve
from anakinema.motion.direct import follow_directly
from anakinema.motion.follow import follow
from anakinema.motion.motion import Motion
from anakinema.motion.sweep import sweep
from anakinema.resources import demo_path
from anakinema.wanted import under_watch
from bench.timing import duel, median_ms, scaled_ms


def _sweep_of(doc) -> Motion:  # type: ignore[no-untyped-def]
    return sweep(build.mechanism(doc))


def ten_bar_against_fsolve() -> list[str]:
    """720 steps of position, velocity and acceleration; fsolve gives positions only."""
    doc = build.driven(build.ten_bar(), ("pin_a1", 0.0, 1.2), count=719)
    mechanism = build.mechanism(doc)
    motion = sweep(mechanism)
    system = System(mechanism, (0,))
    size = mechanism.size

    def by_fsolve() -> Floats:
        poses = motion.poses[0]
        out = []
        for value in motion.values[:, 0]:
            targets = system.targets(np.array([value]) - motion.shift[:1], poses)
            base = poses

            def open_by(x: Floats, base: Floats = base, targets: Floats = targets) -> Floats:
                return system.residual(system.moved(base, x), targets) / size

            poses = system.moved(base, fsolve(open_by, np.zeros(system.unknowns)))
            out.append(poses)
        return np.array(out)

    ours, peer, ratio = duel(lambda: sweep(mechanism), by_fsolve, 3)
    worst = np.abs(by_fsolve() - motion.poses).max()
    return [
        f"720 steps, position + velocity + acceleration: {ours:.0f} ms; fsolve,"
        f" positions only: {peer:.0f} ms; {ratio:.0f}x faster (at least 60x, aim 100x);"
        f" poses differ by {worst:.0e} mm"
    ]


def _closed_form(theta: Floats) -> tuple[Floats, Floats, Floats]:
    """Four-bar 40-120-80-100 over crank angles, vectorised: the same poses, rates and second rates
    (N, 4, 3) of all bodies that the sweep gives, for a crank speed of 1."""
    a, b, c, d = 40.0, 120.0, 80.0, 100.0
    cosine, sine = np.cos(theta), np.sin(theta)
    ax, ay = a * cosine, a * sine
    ex, ey = d - ax, -ay
    span = np.hypot(ex, ey)
    t3 = np.arctan2(ey, ex) + np.arccos((span**2 + b * b - c * c) / (2 * span * b))
    c3, s3 = np.cos(t3), np.sin(t3)
    t4 = np.arctan2(ay + b * s3, ax + b * c3 - d)
    c4, s4 = np.cos(t4), np.sin(t4)
    # Velocity and acceleration of the loop a + b = d + c, two linear equations each.
    determinant = b * c * (c3 * s4 - s3 * c4)
    w3 = a * c * (cosine * s4 - sine * c4) * -1.0 / determinant
    w4 = a * b * (cosine * s3 - sine * c3) * -1.0 / determinant
    px = a * cosine + b * w3**2 * c3 - c * w4**2 * c4
    py = a * sine + b * w3**2 * s3 - c * w4**2 * s4
    acc3 = c * (px * c4 + py * s4) / determinant
    acc4 = b * (px * c3 + py * s3) / determinant
    poses, first, second = (np.zeros((len(theta), 4, 3)) for _ in range(3))
    poses[:, 1, 2], poses[:, 2, 0], poses[:, 2, 1], poses[:, 2, 2] = theta, ax, ay, t3
    poses[:, 3, 0], poses[:, 3, 2] = d, t4
    first[:, 1, 2], first[:, 2, 0], first[:, 2, 1] = 1.0, -ay, ax
    first[:, 2, 2], first[:, 3, 2] = w3, w4
    second[:, 2, 0], second[:, 2, 1] = -ax, -ay
    second[:, 2, 2], second[:, 3, 2] = acc3, acc4
    return poses, first, second


def four_bar_against_closed_form() -> list[str]:
    """A full turn in 720 steps: poses and rates; then with all that hangs on them."""
    doc = build.driven(
        build.four_bar(40, 120, 80, 100, 0.5),
        ("crank_pivot", 0.5, 0.5 + build.FULL_TURN),
        count=720,
    )
    mechanism = build.mechanism(doc)
    theta = np.linspace(0.5, 0.5 + build.FULL_TURN, 721)
    start = sweep(mechanism).poses[0]
    system = System(mechanism, (0,))
    first = mechanism.values(start)[:1]
    progress = np.linspace(0, 1, 721)

    def poses_and_rates() -> object:
        path = Path(system, first, first + build.FULL_TURN, start)
        return solve(follow_directly(path, start, 0.0) or follow(path, start), progress)

    ours, peer, ratio = duel(poses_and_rates, lambda: _closed_form(theta), 25)
    whole, _ = median_ms(lambda: sweep(mechanism), 9)
    exact = _closed_form(theta)
    found = sweep(mechanism).samples
    worst = max(
        float(np.abs(build.wrap(found.poses[:, 1:, 2] - exact[0][:, 1:, 2])).max()),
        float(np.abs(found.first / build.FULL_TURN - exact[1])[..., 2].max()),
        float(np.abs(found.second / build.FULL_TURN**2 - exact[2])[..., 2].max()),
    )
    return [
        f"full turn, 720 steps, poses and rates: {ours:.1f} ms; closed form:"
        f" {peer:.2f} ms; {1 / ratio:.0f}x slower (at most 40x, aim 5x); largest difference"
        f" {worst:.0e}",
        f"the same with assembly, mobility, events and speed bounds: {whole:.1f} ms",
    ]


def growth_with_steps() -> list[str]:
    """Cost against the number of steps, 90 to 2,880."""
    lines = []
    base = 0.0
    for count in (90, 180, 360, 720, 1440, 2880):
        doc = build.driven(build.ten_bar(), ("pin_a1", 0.0, 1.2), count=count)
        mechanism = build.mechanism(doc)
        taken, _ = median_ms(lambda m=mechanism: sweep(m), 5)
        base = base or taken
        lines.append(
            f"ten-bar, {count:4d} steps: {taken:6.1f} ms, {taken / base:.1f}x the time of 90 steps"
            f" for {count / 90:.0f}x the steps"
        )
    return lines


def edits_on_the_tray_shuttle() -> list[str]:
    """Fresh length edits and a limit edit to the fully refreshed verdict, 720 steps, with parts."""
    document = read_document(demo_path("tray-shuttle"))
    before = evaluate(document)
    limited = SetLimit("slide", "least", "-400 mm").apply(document)

    def fresh():  # type: ignore[no-untyped-def]
        return (
            SetDimension("crank", "radius", f"{46 + 0.02 * k:.2f} mm").apply(document)
            for k in itertools.count(1)
        )

    exact, first = fresh(), fresh()
    taken = scaled_ms(lambda: evaluate(next(exact), earlier=before), EDITS)
    look = scaled_ms(lambda: first_look(next(first), before), EDITS)
    limit = scaled_ms(lambda: evaluate(limited, earlier=before), 9)
    return [
        f"{EDITS} fresh length edits: exact verdict {taken:.0f} ms (at most 60, aim 30), first"
        f" look {look:.0f} ms (at most 20, aim 12)",
        f"limit edit to exact verdict: {limit:.1f} ms (at most 20, aim 10)",
    ]


EDITS = 20
"""Fresh edits of which the median is told."""


def edits_on_the_transfer_head() -> list[str]:
    """Fresh length edits of 12 bodies and 10 requirements over 720 steps: exact and first look,
    with the share of each part."""
    document = read_document(demo_path("transfer-head"))
    before = evaluate(document)
    exact, first = [], []
    for k in range(EDITS):
        changed = SetParameter("finger", f"{80 + 0.1 * (k + 1):.2f} mm").apply(document)
        for times, run in (
            (first, lambda: first_look(changed, before)),  # noqa: B023  (run at once)
            (exact, lambda: evaluate(changed, earlier=before)),  # noqa: B023
        ):
            begin = time.perf_counter()
            run()
            times.append((time.perf_counter() - begin) * 1e3)
    told: list[tuple[float, str]] = []
    with under_watch(lambda: None, lambda words: told.append((time.perf_counter(), words))):
        evaluate(changed, earlier=before)
    told.append((time.perf_counter(), ""))
    shares = [
        f"{words} {(after - begin) * 1e3:.0f}"
        for (begin, words), (after, _) in pairwise(told)
        if (after - begin) * 1e3 >= 0.5
    ]
    return [
        f"transfer head, 20 fresh edits: exact verdict {np.median(exact):.0f} ms (at most 150, aim"
        f" 60); first look {np.median(first):.0f} ms (at most 30, aim 16)",
        f"of which, ms: {', '.join(shares)}",
    ]
