"""Changes of the house change no verdict: those of all ready mechanisms are as they were stored."""

from __future__ import annotations

import json
import math
import pickle  # noqa: TID251
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from tools.store_verdicts import FOLDER, verdict

from anakinema.record.report import report_json
from anakinema.resources import demo_names
from tests.ready import evaluated

NEAR = 2e-6
"""mm, deg, s or stages: what a certified gap or a located event may differ by."""


def differences(one: Any, other: Any, where: str = "") -> Iterator[str]:
    """Places at which two reports are not the same."""
    if isinstance(one, dict) and isinstance(other, dict):
        for key in sorted({*one, *other}):
            yield from differences(one.get(key), other.get(key), f"{where}.{key}")
    elif isinstance(one, list) and isinstance(other, list) and len(one) == len(other):
        for k, pair in enumerate(zip(one, other, strict=True)):
            yield from differences(*pair, f"{where}[{k}]")
    elif isinstance(one, float) and isinstance(other, float):
        if not math.isclose(one, other, rel_tol=1e-7, abs_tol=NEAR):
            yield f"{where}: {one!r} is {other!r}"
    elif one != other:
        yield f"{where}: {one!r} is {other!r}"


@pytest.mark.parametrize("name", demo_names())
def test_verdicts_are_as_they_were_stored(name: str) -> None:
    stored = json.loads((FOLDER / f"{name}.json").read_text("utf-8"))
    assert list(differences(stored, verdict(evaluated(name)))) == []


@pytest.mark.parametrize("name", ["water-pump", "cam-dibber", "head-belt", "tray-indexer"])
def test_an_evaluation_goes_to_another_process_and_comes_back(name: str) -> None:
    """It can be pickled whole, and goes on answering: motion, gaps, words."""
    evaluation = evaluated(name)
    # Our own data on its way between our own processes, never a user's file.
    copy = pickle.loads(pickle.dumps(evaluation))  # noqa: S301
    assert report_json(copy) == report_json(evaluation)
    assert copy.gaps.smallest(frozenset()) == evaluation.gaps.smallest(frozenset())
    middle = np.array([evaluation.motion.last / 2])
    assert np.array_equal(copy.motion.poses_at(middle), evaluation.motion.poses_at(middle))


def test_differences_are_found_wherever_they_are() -> None:
    stored = json.loads((FOLDER / "tray-shuttle.json").read_text("utf-8"))
    changed = json.loads(json.dumps(stored))
    changed["findings"][0]["title"] += "!"
    changed["events"][0]["progress"] += 1e-4
    changed["contact"] = [*changed["contact"], {}]
    places = [text.partition(":")[0] for text in differences(stored, changed)]
    assert places == [".contact", ".events[0].progress", ".findings[0].title"]
