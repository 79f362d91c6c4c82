"""Smallest gaps of one motion, each searched once and kept while nothing it depends on changes."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple, TypeVar

import numpy as np

from anakinema.analysis.approaching import InPlane
from anakinema.analysis.belts import run_distances, run_gap
from anakinema.analysis.clearance import Kind, smallest_gaps
from anakinema.analysis.comparing import Compared
from anakinema.analysis.gap import Gap, together
from anakinema.analysis.in_space import InSpace
from anakinema.analysis.looks import Looks
from anakinema.analysis.overrun import overruns, pressed
from anakinema.geometry.contour import Floats
from anakinema.mechanism.belt_pairs import BeltPair
from anakinema.mechanism.slab_pairs import SlabPair
from anakinema.mechanism.space_pairs import SpacePair
from anakinema.motion.motion import Motion

Bodies = frozenset[int]


class Comparisons(NamedTuple):
    """What of a mechanism is compared: slabs of one plane, runs of belts with what they pass, and
    slabs of different planes."""

    slabs: tuple[SlabPair, ...]
    runs: tuple[BeltPair, ...]
    in_space: tuple[SpacePair, ...]


class Gaps:
    """Answers about gaps of a motion; ``bodies`` of two, one or none name whose gap is meant."""

    def __init__(self, motion: Motion, compared: Comparisons, *, exact: bool) -> None:
        self.motion, self.compared = motion, compared
        self.exact = exact
        self._in_plane, self._in_space = InPlane(), InSpace(motion.mechanism.resolved)
        self._belts = sorted({belt_pair.belt for belt_pair in compared.runs})
        self._found: dict[tuple[int | None, Bodies, float | None], Gap | None] = {}
        self._looks = Looks[SlabPair](motion, InPlane.directions)
        self._looks_in_space = Looks[SpacePair](motion, InSpace.directions)

    def adopt(self, earlier: Gaps) -> None:
        """Keep an earlier search's answers if it asked the same of the same motion, and else what
        it saw of pairs that stand as before."""
        same_motion = earlier.motion.samples is self.motion.samples
        same_items = (
            _alike(earlier.compared.slabs, self.compared.slabs)
            and _same_runs(earlier.compared.runs, self.compared.runs)
            and _alike(earlier.compared.in_space, self.compared.in_space)
        )
        if same_motion and same_items and earlier.exact == self.exact:
            self._found, self._looks = earlier._found, earlier._looks
            self._looks_in_space = earlier._looks_in_space
        else:
            self._looks.adopt(earlier._looks, self.compared.slabs)
            self._looks_in_space.adopt(earlier._looks_in_space, self.compared.in_space)

    def smallest(self, bodies: Bodies, threshold: float | None = None) -> Gap | None:
        """Smallest gap of bodies and of what runs of loops pass; None if there is none."""
        found = [self.parts(bodies, threshold)]
        found += [self.belt(belt, bodies, threshold) for belt in self._belts]
        return together([gap for gap in found if gap is not None])

    def parts(self, bodies: Bodies, threshold: float | None = None) -> Gap | None:
        """Smallest gap between bodies; None if there is nothing to compare.

        Where a pin runs past the end of its slot that is an overlap of its two bodies.
        """
        key = (None, bodies, threshold)
        if key not in self._found:
            found = smallest_gaps(
                self.motion,
                [
                    Kind(_chosen(self.compared.slabs, bodies), self._in_plane, self._looks),
                    Kind(
                        _chosen(self.compared.in_space, bodies),
                        self._in_space,
                        self._looks_in_space,
                    ),
                ],
                threshold=threshold,
                exact=self.exact,
            )
            past = [gap for gap in self._overruns if bodies <= {gap.first_body, gap.second_body}]
            self._found[key] = together([*found, *past])
        return self._found[key]

    @cached_property
    def _overruns(self) -> list[Gap]:
        """What runs past an end of its slot, or is pressed into what it touches."""
        return [*overruns(self.motion), *(pressed(self.motion) if self.exact else [])]

    def belt(self, belt: int, bodies: Bodies, threshold: float | None = None) -> Gap | None:
        """Smallest gap of the runs of a loop; None if they pass nothing that is meant."""
        key = (belt, bodies, threshold)
        if key not in self._found:
            self._found[key] = run_gap(
                self.motion, self._passed(belt, bodies), threshold=threshold, exact=self.exact
            )
        return self._found[key]

    def curve(self, bodies: Bodies, poses: Floats) -> Floats | None:
        """(N,) mm, the same gap at each of the poses (N, B, 3); None if nothing is compared."""
        chosen, in_space = (
            _chosen(self.compared.slabs, bodies),
            _chosen(self.compared.in_space, bodies),
        )
        curves = [self._in_plane.curve(chosen, poses)] if chosen else []
        curves += [self._in_space.curve(in_space, poses)] if in_space else []
        for belt in self._belts:
            passed = self._passed(belt, bodies)
            if passed:
                curves.append(run_distances(self.motion, passed, poses))
        return np.asarray(np.min(curves, axis=0)) if curves else None

    def _passed(self, belt: int, bodies: Bodies) -> list[BeltPair]:
        """What a loop passes of the named bodies; of two, neither is a loop."""
        return [p for p in self.compared.runs if p.belt == belt and bodies <= {p.body}]


C = TypeVar("C", bound=Compared)


def _chosen(items: Sequence[C], bodies: Bodies) -> list[C]:
    """The comparisons between the named bodies and the rest."""
    return [item for item in items if bodies <= item.about]


def _alike(one: Sequence[C], other: Sequence[C]) -> bool:
    return len(one) == len(other) and all(a.is_like(b) for a, b in zip(one, other, strict=True))


def _same_runs(one: Sequence[BeltPair], other: Sequence[BeltPair]) -> bool:
    return len(one) == len(other) and all(
        (a.belt, a.run, a.body, a.half, a.seats, a.shape)
        == (b.belt, b.run, b.body, b.half, b.seats, b.shape)
        and a.slab.region is b.slab.region
        for a, b in zip(one, other, strict=True)
    )
