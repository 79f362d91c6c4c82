"""What is kept of an earlier search: never another answer, and less to measure."""

from __future__ import annotations

import numpy as np
import pytest

from anakinema.analysis.gap import Gap
from anakinema.analysis.gaps import Gaps
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import compared, evaluate
from anakinema.remedies.numbers import free_numbers
from tests.conftest import some
from tests.ready import evaluated

TOLERANCE = 0.005
"""mm; width within which a gap is known."""


def asked(gaps: Gaps, pairs: list[frozenset[int]]) -> list[Gap | None]:
    return [gaps.smallest(bodies, 5.0 if bodies else None) for bodies in pairs]


@pytest.mark.campaign
@pytest.mark.parametrize("name", some(["transfer-head", "tip-out-carrier"], 2))
def test_gaps_after_an_edit_are_those_of_a_search_from_nothing(name: str) -> None:
    before = evaluated(name)
    bodies = len(before.resolved.document.bodies)
    random = np.random.default_rng(bodies)
    numbers = free_numbers(before.source)
    pairs = [frozenset[int](), *(frozenset([k]) for k in random.choice(bodies, 2, replace=False))]
    asked(before.gaps, pairs)
    tried, saved = 0, 0
    for number in random.permutation(len(numbers))[:4]:
        edit = numbers[number].edit(numbers[number].value * random.uniform(0.97, 1.03))
        try:
            after = evaluate(edit.apply(before.source), earlier=before)
        except AnakinemaError:
            continue
        fresh = Gaps(after.motion, compared(after.mechanism), exact=True)
        for kept, found in zip(asked(after.gaps, pairs), asked(fresh, pairs), strict=True):
            assert (kept is None) == (found is None)
            if kept is None or found is None:
                continue
            assert kept.least <= found.most + 1e-9 and found.least <= kept.most + 1e-9
            assert kept.most - kept.least <= max(found.most - found.least, TOLERANCE) + 1e-9
            assert kept.overlaps == found.overlaps
            assert np.allclose(kept.below, found.below, atol=2e-4)
            saved += found.evaluations - kept.evaluations
            tried += 1
    assert tried >= 6 and saved > 0
