"""Smallest gaps of one motion, each searched once and kept while nothing it depends on changes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from anakinema.analysis.clearance import Gap, smallest_gap
from anakinema.mechanism.comparisons import Comparison
from anakinema.motion.motion import Motion

Bodies = frozenset[int]


class Gaps:
    """Answers about gaps of a motion; ``bodies`` of two, one or none name whose gap is meant."""

    def __init__(
        self,
        motion: Motion,
        items: tuple[Comparison, ...],
        *,
        exact: bool,
        check: Callable[[], None] = lambda: None,
    ) -> None:
        self.motion, self.items, self.exact, self.check = motion, items, exact, check
        self._found: dict[tuple[Bodies, float | None], Gap | None] = {}

    def adopt(self, earlier: Gaps) -> None:
        """Keep an earlier search's answers if it asked the same of the same motion."""
        same_motion = earlier.motion.samples is self.motion.samples
        if same_motion and earlier.exact == self.exact and _same(earlier.items, self.items):
            self._found = earlier._found

    def chosen(self, bodies: Bodies) -> list[Comparison]:
        """The comparisons between the named bodies and the rest."""
        return [item for item in self.items if bodies <= set(item.bodies)]

    def smallest(self, bodies: Bodies, threshold: float | None = None) -> Gap | None:
        """Smallest gap; None if there is nothing to compare."""
        key = (bodies, threshold)
        if key not in self._found:
            self._found[key] = smallest_gap(
                self.motion,
                self.chosen(bodies),
                threshold=threshold,
                exact=self.exact,
                check=self.check,
            )
        return self._found[key]


def _same(one: Sequence[Comparison], other: Sequence[Comparison]) -> bool:
    return len(one) == len(other) and all(
        a.bodies == b.bodies
        and a.first.region is b.first.region
        and a.second.region is b.second.region
        and a.enclosed == b.enclosed
        and a.compared.shape == b.compared.shape
        and bool((a.compared == b.compared).all())
        for a, b in zip(one, other, strict=True)
    )
