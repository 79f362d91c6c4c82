"""Paths on the stage: arrows, curvature, instant centre and cusps against closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.authoring import kept_paths, trace_place, traced_point
from anakinema.document import model as m
from anakinema.findings.evaluate import Evaluation, evaluate
from tests import mechanisms as build


def traced(doc: m.Document, body: str, place: str) -> Evaluation:
    first = evaluate(doc)
    return evaluate(trace_place(first.resolved, body, place).apply(doc))


def four_bar() -> m.Document:
    """Crank 40, coupler 120, rocker 80, base 100, a turn in 2 pi seconds."""
    doc = build.four_bar(40, 120, 80, 100, 0.1)
    return build.driven(doc, ("crank_pivot", 0.1, 0.1 + build.FULL_TURN), count=180)


def test_a_crank_pin_goes_round_its_pivot() -> None:
    evaluation = traced(four_bar(), "crank", "b")
    (trace,) = kept_paths(evaluation)
    assert np.hypot(*trace.points.T) == pytest.approx(40.0, abs=1e-9)
    assert trace.fastest == pytest.approx(40.0) and trace.hardest == pytest.approx(40.0)
    # Marks at even times lie at even angles.
    angles = np.unwrap(np.arctan2(trace.marks[:, 1], trace.marks[:, 0]))
    assert np.diff(angles) == pytest.approx(trace.step, abs=1e-9)
    for progress in (0.0, 0.21, 0.77, 1.0):
        now = traced_point(evaluation, trace, progress)
        assert now is not None and now.radius is not None
        assert now.radius == pytest.approx(40.0, abs=1e-8)
        assert now.centre == pytest.approx([0.0, 0.0], abs=1e-8)
        assert now.pole == pytest.approx([0.0, 0.0], abs=1e-8)
        assert now.velocity @ now.at == pytest.approx(0.0, abs=1e-8)
        assert now.acceleration == pytest.approx(-now.at, abs=1e-8)


def test_a_coupler_turns_about_where_crank_and_rocker_meet() -> None:
    """Its instant centre lies on the lines of both links (Aronhold and Kennedy)."""
    evaluation = traced(four_bar(), "coupler", "b")
    (trace,) = kept_paths(evaluation)
    for progress in np.linspace(0.03, 0.97, 17):
        now = traced_point(evaluation, trace, float(progress))
        theta = 0.1 + progress * build.FULL_TURN
        rocker = build.four_bar_angles(40, 120, 80, 100, theta)[1]
        lines = np.array(
            [[math.cos(theta), -math.cos(rocker)], [math.sin(theta), -math.sin(rocker)]]
        )
        if abs(np.linalg.det(lines)) < 0.05:
            continue
        share = np.linalg.solve(lines, [100.0, 0.0])[0]
        assert now is not None and now.pole is not None
        assert now.pole == pytest.approx(
            share * np.array([math.cos(theta), math.sin(theta)]), abs=1e-6
        )


def rolling(radius: float, around: float) -> m.Document:
    """A wheel that rolls round a fixed one of the same pitch: its rim draws a cycloid's kin."""
    arm = radius + around
    doc = build.document(
        [
            build.part("base", o=(0, 0)),
            build.part("arm", a=(0, 0), b=(arm, 0)),
            build.part("wheel", o=(0, 0), rim=(radius, 0), inner=(radius * 0.6, 0)),
        ],
        [build.body("base", fixed=True), build.body("arm"), build.body("wheel", arm, 0)],
        [
            build.joint("turn", "revolute", "base.o", "arm.a"),
            build.joint("spin", "revolute", "arm.b", "wheel.o"),
        ],
        couplings=(
            m.Coupling(
                id="mesh",
                kind="ratio",
                first="turn",
                second="spin",
                first_size=1,
                second_size=around / radius,
            ),
        ),
    )
    return build.driven(doc, ("turn", 0.0, build.FULL_TURN), count=90)


def test_a_rolling_rim_has_cusps_and_a_point_inside_none() -> None:
    """Rolling on a wheel three times as large: an epicycloid with three cusps on that wheel."""
    evaluation = traced(rolling(20.0, 60.0), "wheel", "rim")
    (trace,) = kept_paths(evaluation)
    assert len(trace.cusps) == 3, trace.cusps
    assert np.hypot(*trace.cusps.T) == pytest.approx(60.0, abs=1e-3)
    assert len(kept_paths(traced(rolling(20.0, 60.0), "wheel", "inner"))[0].cusps) == 0


def test_a_slide_goes_straight_and_turns_about_nothing() -> None:
    doc = build.driven(
        build.crank_slider(30, 90, 0, 0.4), ("crank_pivot", 0.4, 0.4 + build.FULL_TURN), count=60
    )
    evaluation = traced(doc, "slide", "pin")
    (trace,) = kept_paths(evaluation)
    now = traced_point(evaluation, trace, 0.3)
    assert now is not None and now.radius is None and now.pole is None
    assert now.velocity[1] == pytest.approx(0.0, abs=1e-9)
