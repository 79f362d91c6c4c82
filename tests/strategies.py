"""Hypothesis strategies: expressions, outlines, mechanisms, edits and damaged files."""

from __future__ import annotations

import math

import numpy as np
from hypothesis import strategies as st

from anakinema.geometry.contour import Contour, circle, hull, rectangle

sizes = st.floats(1.0, 60.0)
places = st.floats(-80.0, 80.0)
angles = st.floats(-math.pi, math.pi)


@st.composite
def contours(draw: st.DrawFn) -> Contour:
    """A circle, a rounded rectangle or the hull of some circles."""
    kind = draw(st.sampled_from(("circle", "rectangle", "hull")))
    if kind == "circle":
        return circle(draw(places), draw(places), draw(sizes))
    if kind == "rectangle":
        width, height = draw(sizes), draw(sizes)
        corner = draw(st.floats(0.0, 0.5)) * min(width, height)
        return rectangle(draw(places), draw(places), width, height, corner, draw(angles))
    count = draw(st.integers(2, 4))
    return hull([(draw(places), draw(places), draw(st.floats(1.0, 15.0))) for _ in range(count)])


@st.composite
def poses(draw: st.DrawFn, count: int) -> np.ndarray:
    """(count, 3) poses."""
    return np.array([(draw(places), draw(places), draw(angles)) for _ in range(count)])


@st.composite
def grashof_free_four_bars(draw: st.DrawFn) -> tuple[float, float, float, float, float]:
    """Lengths a, b, c, d and a crank angle at which the loop closes with room to spare."""
    a, b, c, d = (draw(st.floats(20.0, 150.0)) for _ in range(4))
    theta = draw(angles)
    span = math.sqrt(a * a + d * d - 2 * a * d * math.cos(theta))
    from hypothesis import assume

    assume(abs(b - c) + 2.0 < span < b + c - 2.0)
    return a, b, c, d, theta
