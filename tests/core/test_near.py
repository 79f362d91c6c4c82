"""Poses near a known motion, many variants at once, against each followed by itself."""

from __future__ import annotations

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.values import SetDimension
from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.mechanism.frames import frames
from anakinema.mechanism.numbers import (
    numbers_of,
    only_numbers_differ,
    same_structure,
    together,
    with_numbers,
)
from anakinema.mechanism.system import System
from anakinema.motion.near import near
from anakinema.resources import demo_path
from tests import mechanisms as build

SPREAD = (-0.8, -0.3, 0.0, 0.5, 0.9)
"""mm by which a length differs from variant to variant."""


def rocker(a: float = 40.0, b: float = 120.0) -> m.Document:
    return build.driven(build.four_bar(a, b, 80, 100, 0.4), ("crank_pivot", 0.4, 6.0), count=48)


def variants_of(nominal: Evaluation, documents: list[m.Document]) -> list[Mechanism]:
    """Compiled with the nominal size, so that their equations are scaled alike."""
    size = nominal.mechanism.size
    return [compile_mechanism(resolve(document), size) for document in documents]


def test_many_four_bars_at_once_are_as_each_followed_alone() -> None:
    nominal = evaluate(rocker())
    documents = [rocker(40 + d, 120 - 2 * d) for d in SPREAD]
    progress = np.linspace(0.0, nominal.motion.last, 61)
    found = near(nominal.motion, variants_of(nominal, documents), progress, rates=True)
    assert found is not None and found.closed.all()
    assert found.poses.shape == (len(SPREAD), 61, 4, 3)
    for k, document in enumerate(documents):
        alone = evaluate(document).motion.at(progress)
        assert found.poses[k] == pytest.approx(alone.poses, abs=1e-8)
        assert found.values[k] == pytest.approx(alone.values, abs=1e-9)
        assert found.first[k] == pytest.approx(alone.first, abs=1e-6)
        assert found.second[k] == pytest.approx(alone.second, abs=1e-5)


@pytest.mark.parametrize(
    ("demo", "part", "dimension", "values"),
    [
        ("tray-shuttle", "crank", "radius", ("46.4 mm", "45.1 mm")),
        ("tray-shuttle", "push_rod", "length", ("118.5 mm", "117.2 mm")),
        ("cam-dibber", "roller", "radius", ("9.1 mm", "8.9 mm")),
        ("head-belt", "arm", "length", ("128.3 mm", "127.6 mm")),
    ],
)
def test_variants_of_ready_mechanisms_are_as_each_followed_alone(
    demo: str, part: str, dimension: str, values: tuple[str, str]
) -> None:
    """By sizes of parts; cams and belts are among what is taken one by one."""
    document = read_document(demo_path(demo))
    nominal = evaluate(document)
    changed = [SetDimension(part, dimension, value).apply(document) for value in values]
    progress = np.linspace(0.02, nominal.motion.last - 0.02, 23)
    found = near(nominal.motion, variants_of(nominal, changed), progress)
    assert found is not None and found.closed.all()
    for k, each in enumerate(changed):
        motion = evaluate(each).motion
        known = progress <= motion.last
        alone = motion.at(progress[known]).poses
        assert found.poses[k][known] == pytest.approx(alone, abs=1e-6)


def test_driver_ends_and_rests_of_variants_are_their_own() -> None:
    nominal = evaluate(rocker())
    document = nominal.source
    (stage,) = document.program.stages
    farther = document.program.model_copy(
        update={"stages": (stage.model_copy(update={"moves": (m.Move(driver="d0", to=5.0),)}),)}
    )
    changed = document.model_copy(update={"program": farther})
    found = near(nominal.motion, variants_of(nominal, [changed]), np.array([0.0, 0.5, 1.0]))
    assert found is not None
    assert found.values[0, :, 0] == pytest.approx([0.4, 2.7, 5.0], abs=1e-9)


def test_what_cannot_close_is_told_and_the_rest_stays() -> None:
    nominal = evaluate(rocker())
    documents = [rocker(), rocker(40.0, 30.0)]
    progress = np.linspace(0.0, 1.0, 9)
    found = near(nominal.motion, variants_of(nominal, documents), progress)
    assert found is not None
    assert found.closed[0].all() and not found.closed[1].all()
    assert np.isnan(found.open_by[1][~found.closed[1]]).all()


def test_another_structure_has_nothing_near() -> None:
    nominal = evaluate(rocker())
    other = build.driven(build.crank_slider(30, 90, 0, 0.4), ("crank_pivot", 0.4, 1.0))
    assert near(nominal.motion, [compile_mechanism(resolve(other))], np.zeros(1)) is None
    assert not same_structure(nominal.mechanism, compile_mechanism(resolve(other)))


@pytest.mark.parametrize("demo", ["tray-shuttle", "water-pump", "lid-latch", "transfer-arm"])
def test_equations_broadcast_over_numbers(demo: str) -> None:
    """All of a system for three variants at once is that of each by itself."""
    document = read_document(demo_path(demo))
    nominal = compile_mechanism(resolve(document))
    shaken = np.random.default_rng(5)
    variants = []
    for _ in range(3):
        numbers = numbers_of(nominal)
        variants.append(
            with_numbers(
                nominal,
                type(numbers)(
                    *(
                        np.asarray(getattr(numbers, name))
                        + shaken.uniform(-0.3, 0.3, np.shape(getattr(numbers, name)))
                        for name in numbers.__slots__
                    )
                ),
            )
        )
    batch = with_numbers(nominal, together(variants))
    poses = nominal.resolved.poses + shaken.uniform(
        -0.2, 0.2, (3, 4, *nominal.resolved.poses.shape)
    )
    rates = shaken.uniform(-1.0, 1.0, poses.shape)
    at = frames(batch.table, poses)
    assert at.apart.shape[:2] == (3, 4)
    every = System(batch)
    targets = every.targets(np.zeros((3, 4, 0)), poses)
    residual, jacobian = every.residual_jacobian(poses, targets)
    most, reach = np.abs(rates), np.full((3, 4), 0.01)
    for k, variant in enumerate(variants):
        alone = System(variant)
        wanted = alone.targets(np.zeros((4, 0)), poses[k])
        one, slope = alone.residual_jacobian(poses[k], wanted)
        assert residual[k] == pytest.approx(one, abs=1e-9)
        assert jacobian[k] == pytest.approx(slope, abs=1e-12)
        assert every.quadratic(poses, rates)[k] == pytest.approx(
            alone.quadratic(poses[k], rates[k]), abs=1e-9
        )
        bound = alone.change_bound(alone.frames(poses[k]), most[k], reach[k])
        assert every.change_bound(every.frames(poses), most, reach)[k] == pytest.approx(
            bound, rel=1e-9
        )
        assert batch.values(poses)[k] == pytest.approx(variant.values(poses[k]), abs=1e-12)
    assert only_numbers_differ(variants[0], variants[1])
