"""One pointer step of a 120-link chain against one dense least-squares solve of its system."""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numpy as np
from tests import mechanisms as build
from tests.core.test_drag import chain, place_of

from anakinema.mechanism.system import System
from anakinema.motion.drag import Drag
from bench.timing import duel

LINKS, MANY_LINKS = 120, 1000
MOVES = 20
"""Pointer steps of one measured stretch of dragging."""


def chain_drag() -> list[str]:
    """A small and a large step of the pointer at the chain's end, to and fro."""
    mechanism = build.mechanism(chain(LINKS))
    start = mechanism.resolved.poses
    tip = place_of(start, LINKS, (10, 0))
    system = System(mechanism)
    _, jacobian = system.residual_jacobian(start, mechanism.row_target)
    pull = np.zeros((2, system.unknowns))
    column = mechanism.column[LINKS]
    pull[0, column] = pull[1, column + 1] = 1.0
    matrix = np.vstack([jacobian, pull])
    right = np.zeros(len(matrix))
    right[-2:] = 1.0
    lines = []
    for step, words in ((2.0, "small"), (39.0, "large")):
        drag = Drag(mechanism, start)
        ends = itertools.cycle(
            [(float(tip[0]) - step, float(tip[1]) + step / 2), (float(tip[0]), float(tip[1]))]
        )
        left: list[float] = []

        def follow(drag: Drag = drag, ends=ends, left: list[float] = left) -> None:  # type: ignore[no-untyped-def]
            for _ in range(MOVES):
                left.append(drag.pull(LINKS, (10, 0), next(ends)).away)

        ours, peer, ratio = duel(follow, lambda: np.linalg.lstsq(matrix, right, rcond=None), 7)
        ours, ratio = ours / MOVES, ratio * MOVES
        lines.append(
            f"{LINKS}-link chain, one {words} pointer step of {step:g} mm: {ours:.2f} ms, at most"
            f" {max(left):.0e} mm left behind; one dense lstsq {matrix.shape[0]} x"
            f" {matrix.shape[1]}: {peer:.0f} ms; {ratio:.0f}x faster (at least 20x, aim 200x)"
        )
    return lines


def drag_of_many_links() -> list[str]:
    """The same pointer steps at the end of a chain of many more links, against them at the first's:
    in proportion to links they would take 8.3 times as long."""
    lines = []
    for step, words in ((2.0, "small"), (39.0, "large")):
        longer, shorter, ratio = duel(_pulling(MANY_LINKS, step), _pulling(LINKS, step), 7)
        lines.append(
            f"{MANY_LINKS:,} links, one {words} pointer step: {longer / MOVES:.2f} ms; {LINKS}"
            f" links: {shorter / MOVES:.2f} ms; {1 / ratio:.1f}x the time (at most 9x, aim 8.5x)"
        )
    return lines


def _pulling(links: int, step: float) -> Callable[[], None]:
    """Many pointer steps to and fro at a chain's end."""
    mechanism = build.mechanism(chain(links))
    start = mechanism.resolved.poses
    tip = place_of(start, links, (10, 0))
    drag = Drag(mechanism, start)
    ends = [(float(tip[0]) - step, float(tip[1]) + step / 2), (float(tip[0]), float(tip[1]))]

    def follow() -> None:
        for k in range(MOVES):
            drag.pull(links, (10, 0), ends[k % 2])

    return follow
