"""Kept poses: they stand as kept, follow an edit by what drives them, and say what cannot be."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.authoring.posing import kept_pose, stood, way_to
from anakinema.authoring.scene import Scene, drawn
from anakinema.document import model as m
from anakinema.document.depending import Going
from anakinema.edits.kept import Keep
from anakinema.edits.structure import Remove
from anakinema.edits.values import SetLimit, SetParameter
from anakinema.files.native import document_text, parse_document
from anakinema.mechanism.compile import compile_mechanism
from anakinema.mechanism.system import System
from anakinema.motion.kept_poses import passes
from tests.ready import evaluated

NAMES = ("tray-shuttle", "transfer-head", "water-pump", "tip-out-carrier")


def at(name: str, share: float) -> tuple[Scene, np.ndarray, float]:
    """A ready mechanism, and its poses at a share of its motion."""
    evaluation = evaluated(name)
    progress = share * evaluation.motion.last
    poses = evaluation.motion.poses_at(np.array([progress]))[0]
    return Scene(evaluation.resolved, poses), poses, progress


def open_by(scene: Scene, poses: np.ndarray) -> float:
    """mm by which loops are open, by the general equations."""
    system = System(compile_mechanism(scene.resolved))
    return float(np.abs(system.residual(poses, system.at_rest)).max())


@settings(deadline=None, max_examples=12)
@given(st.sampled_from(NAMES), st.floats(0.0, 1.0))
def test_a_kept_pose_stands_as_it_was_and_the_motion_finds_it(name: str, share: float) -> None:
    scene, poses, _ = at(name, share)
    kept = kept_pose(scene, poses, "there", ())
    found = stood(scene.resolved, kept)
    assert found.reason == ""
    assert np.abs(found.poses - poses).max() < 1e-8
    motion = evaluated(name).motion
    progress = passes(motion, found.poses)
    assert progress is not None
    assert np.abs(motion.poses_at(np.array([progress]))[0] - poses).max() < 1e-3
    assert passes(motion, poses + np.array([0.5, 0.0, 0.0])) is None


def test_after_a_length_edit_the_crank_stands_as_kept_and_the_rest_follows() -> None:
    scene, poses, _ = at("tray-shuttle", 0.3)
    kept = kept_pose(scene, poses, "at the fork", ())
    document = Keep(kept).apply(scene.resolved.source)
    longer = drawn(SetParameter("rod", "121 mm").apply(document))
    found = stood(longer.resolved, kept)
    assert found.reason == "" and open_by(longer, found.poses) < 1e-8
    crank = [body.id for body in longer.resolved.document.bodies].index("crank")
    assert math.isclose(found.poses[crank, 2], poses[crank, 2], abs_tol=1e-9)
    assert np.abs(found.poses - poses).max() > 0.1


def test_what_cannot_be_reached_any_more_says_so_and_shows_the_nearest() -> None:
    """A slider crank whose kept pose needs more stroke than the shorter parts have."""
    scene, poses, _ = at("tray-shuttle", 0.0)
    kept = kept_pose(scene, poses, "start", ())
    for rod in ("40 mm", "30 mm", "20 mm"):
        document = SetParameter("rod", rod).apply(scene.resolved.source)
        found = stood(drawn(document).resolved, kept)
        if found.reason:
            break
    assert "any more" in found.reason


def test_a_pose_past_a_limit_says_so() -> None:
    scene, poses, _ = at("tray-shuttle", 0.5)
    kept = kept_pose(scene, poses, "half way", ())
    joints = scene.resolved.document.joints
    k, joint = next((k, j) for k, j in enumerate(joints) if j.kind == "prismatic")
    value = float(compile_mechanism(scene.resolved).values(poses)[k])
    limited = SetLimit(joint.id, "greatest", f"{value - 1} mm").apply(scene.resolved.source)
    assert stood(drawn(limited).resolved, kept).reason == (
        f"{joint.title} is beyond its limits there."
    )


@pytest.mark.parametrize("name", NAMES)
def test_the_way_between_two_poses_is_closed_all_along_and_ends_there(name: str) -> None:
    scene, here, _ = at(name, 0.1)
    _, there, _ = at(name, 0.35)
    way = way_to(scene.resolved, here, there, 20)
    assert way[-1] is there
    assert max(open_by(scene, poses) for poses in way) < 1e-6
    assert len(way) == 20
    steps = [np.abs(b - a)[:, :2].max() for a, b in zip([here, *way], way, strict=False)]
    assert max(steps) < 0.45 * np.abs(there - here)[:, :2].max() + 5.0


def test_poses_are_saved_and_lose_bodies_that_go() -> None:
    scene, poses, _ = at("tray-shuttle", 0.2)
    kept = kept_pose(scene, poses, "Größte Öffnung", ())
    document = Keep(kept).apply(scene.resolved.source)
    again = parse_document(document_text(document).encode(), "test")
    assert again.poses == (kept,)
    body = kept.placements[0].body
    less = Remove(Going(bodies=frozenset({body})), "Delete").apply(document)
    assert [p.body for p in less.poses[0].placements] == [p.body for p in kept.placements[1:]]
    assert isinstance(less.poses[0], m.KeptPose)
