"""Joining by hand: snaps, what comes where, loops and their two assemblies, play and doubts."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.authoring.diagnostics import diagnostics
from anakinema.authoring.joining import Proposal, propose
from anakinema.authoring.rejoining import rejoined
from anakinema.authoring.scene import Scene, joint_value
from anakinema.authoring.snap_points import all_snaps, placed_snap, snaps_at
from anakinema.authoring.wishes import Wish, likely_kind
from anakinema.document import model as m
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import AddDriver, SetBody
from anakinema.edits.values import SetLimit
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.mechanism.system import System
from anakinema.parts.shelf import recipe
from anakinema.resources import demo_names, demo_path
from tests import mechanisms as build


def bench(**lengths: str) -> m.Document:
    """A base with two pins, three links, all strewn about."""
    parts = [recipe("base").part("base", spacing="100 mm")]
    bodies = [m.Body(id="base", part="base", fixed=True, height=0)]
    at = ((-60, 90, 20), (40, 120, -30), (190, 80, 75))
    for (name, length), (x, y, angle) in zip(lengths.items(), at, strict=False):
        parts.append(recipe("link").part(name, length=length))
        bodies.append(m.Body(id=name, part=name, pose=m.Pose(x=x, y=y, angle=angle)))
    return m.Document(parts=tuple(parts), bodies=tuple(bodies))


def join(
    document: m.Document, first: str, second: str, kind: str = "revolute", **more: object
) -> Proposal:
    """Join two ``body.place`` as a user would, at the poses of the document."""
    resolved = resolve(document)
    ends = [placed_snap(resolved, resolved.poses, *text.split(".")) for text in (first, second)]
    return propose(resolved, resolved.poses, Wish(ends[0], ends[1], kind, **more))  # type: ignore[arg-type]


def four_bar(branch: int = 0) -> tuple[m.Document, Proposal]:
    """Crank 40, coupler 120, rocker 80 on ground 100, joined one after another."""
    document = bench(crank="40 mm", coupler="120 mm", rocker="80 mm")
    for first, second in (("crank.a", "base.a"), ("rocker.a", "base.b"), ("coupler.a", "crank.b")):
        document = join(document, first, second).edit.apply(document)
    last = join(document, "coupler.b", "rocker.b", branch=branch)
    return last.edit.apply(document), last


def angles(resolved: Resolved) -> tuple[float, float, float]:
    index = {b.id: i for i, b in enumerate(resolved.document.bodies)}
    return tuple(float(resolved.poses[index[b], 2]) for b in ("crank", "coupler", "rocker"))  # type: ignore[return-value]


def test_the_first_body_comes_to_the_second_and_keeps_its_attitude() -> None:
    document = bench(crank="40 mm")
    proposal = join(document, "crank.b", "base.b")
    after = resolve(proposal.edit.apply(document))
    x, y, angle = after.poses[1]
    assert angle == pytest.approx(math.radians(20))
    tip = (x + 40 * math.cos(angle), y + 40 * math.sin(angle))
    assert tip == pytest.approx((100.0, 0.0), abs=1e-8)
    assert proposal.freedoms == 1
    assert proposal.moved == (1,)
    assert (proposal.poses[1] == after.poses[1]).all() or proposal.poses[1] == pytest.approx(
        after.poses[1], abs=1e-9
    )


def test_a_join_seats_the_hole_on_the_shoulder_of_its_pin_and_tells_the_play() -> None:
    document = bench(crank="40 mm", coupler="60 mm")
    document = join(document, "crank.a", "base.a").edit.apply(document)
    proposal = join(document, "coupler.a", "crank.b")
    document = proposal.edit.apply(document)
    assert resolve(document).heights.tolist() == [0.0, 0.0, 6.0]
    first = document.joint("crank_on_base")
    assert [p.slab for p in first.first.pieces] == ["pin_a"]
    assert [(p.slab, p.hole) for p in first.second.pieces] == [("bar", "a")]
    (fit,) = join(bench(crank="40 mm"), "crank.a", "base.a").play
    assert (fit.inner, fit.outer) == pytest.approx((8.0, 8.2))
    assert fit.play == pytest.approx(0.2)
    for stack, wanted in (("middle", 0.0), (3.5, 3.5), ("below", -14.0)):
        doc = bench(crank="40 mm")
        doc = join(doc, "crank.a", "base.a", stack=stack).edit.apply(doc)
        assert resolve(doc).heights[1] == pytest.approx(wanted)


def test_closing_a_loop_offers_both_assemblies_at_one_crank_angle() -> None:
    document, proposal = four_bar()
    theta, coupler, rocker = angles(resolve(document))
    both = [build.four_bar_angles(40, 120, 80, 100, theta, is_open=o) for o in (True, False)]
    here = int(abs(build.wrap(rocker - both[1][1])) < 1e-7)
    assert build.wrap(np.array([coupler, rocker]) - np.array(both[here])) == pytest.approx(
        0, abs=1e-7
    )
    (ghost,) = proposal.ghosts
    index = {b.id: i for i, b in enumerate(resolve(document).document.bodies)}
    other = np.array([ghost[index["coupler"], 2], ghost[index["rocker"], 2]])
    assert build.wrap(ghost[index["crank"], 2] - theta) == pytest.approx(0, abs=1e-7)
    assert build.wrap(other - np.array(both[1 - here])) == pytest.approx(0, abs=1e-7)
    assert (proposal.freedoms_before, proposal.freedoms) == (3, 1)
    assert proposal.repeats == ()
    taken, _ = four_bar(branch=1)
    assert build.wrap(angles(resolve(taken))[2] - both[1 - here][1]) == pytest.approx(0, abs=1e-7)


def test_what_was_joined_moves_as_its_closed_form() -> None:
    document, _ = four_bar()
    driver = m.Driver(id="crank", joint="crank_on_base", start="20 deg", rate="10 rpm")
    stage = m.Stage(moves=(m.Move(driver="crank", to="380 deg"),), count=72)
    evaluation = evaluate(
        document.model_copy(update={"program": m.Program(drivers=(driver,), stages=(stage,))})
    )
    motion = evaluation.motion
    index = {b.id: i for i, b in enumerate(evaluation.document.bodies)}
    is_open = None
    for poses in motion.poses:
        theta, rocker = poses[index["crank"], 2], poses[index["rocker"], 2]
        both = [build.four_bar_angles(40, 120, 80, 100, theta, is_open=o)[1] for o in (True, False)]
        off = [abs(float(build.wrap(rocker - angle))) for angle in both]
        is_open = off[0] < off[1] if is_open is None else is_open
        assert off[0 if is_open else 1] < 1e-8


def test_a_loop_too_short_to_close_says_how_far_it_stays_open() -> None:
    document = bench(crank="20 mm", coupler="30 mm", rocker="25 mm")
    for first, second in (("crank.a", "base.a"), ("rocker.a", "base.b"), ("coupler.a", "crank.b")):
        document = join(document, first, second).edit.apply(document)
    proposal = join(document, "coupler.b", "rocker.b")
    assert not proposal.is_closed
    assert 0 < proposal.apart < 25.0


def test_a_join_that_repeats_others_names_them() -> None:
    document, _ = four_bar()
    proposal = join(document, "crank.a", "base.a", kind="revolute", manner="stand")
    assert proposal.is_closed
    assert "crank on base" in proposal.repeats
    assert proposal.freedoms == proposal.freedoms_before == 1


def test_as_they_stand_tells_the_misfit_and_keeps_or_closes_it() -> None:
    document = bench(crank="40 mm")
    near = m.Pose(x="3 mm", y="4 mm", angle=10)
    bodies = (document.bodies[0], document.bodies[1].model_copy(update={"pose": near}))
    document = document.model_copy(update={"bodies": bodies})
    closed = join(document, "crank.a", "base.a", manner="stand")
    assert closed.apart == pytest.approx(5.0)
    assert np.hypot(*resolve(closed.edit.apply(document)).poses[1, :2]) < 1e-8
    kept = join(document, "crank.a", "base.a", manner="offset")
    after = resolve(kept.edit.apply(document))
    assert after.poses[1] == pytest.approx([3.0, 4.0, math.radians(10)])
    assert kept.moved == ()
    (joint,) = after.document.joints
    x, y, _ = after.parts["crank"].places[joint.second.place]
    assert math.hypot(x, y) == pytest.approx(5.0)


def test_slides_align_flip_and_offset() -> None:
    parts = (recipe("guide").part("guide"), recipe("block").part("block"))
    tilted = m.Pose(x=10, y=20, angle=30)
    document = m.Document(
        parts=parts,
        bodies=(
            m.Body(id="guide", part="guide", fixed=True, pose=tilted),
            m.Body(id="block", part="block", pose=m.Pose(x=200, y=90, angle=77)),
        ),
    )
    for flip, offset in ((False, 0.0), (True, 0.0), (False, 5.0)):
        proposal = join(
            document, "block.middle", "guide.axis", "prismatic", flip=flip, offset=offset
        )
        after = resolve(proposal.edit.apply(document))
        wanted = 30.0 + (180.0 if flip else 0.0)
        assert build.wrap(after.poses[1, 2] - math.radians(wanted)) == pytest.approx(0, abs=1e-9)
        across = (-offset * math.sin(math.radians(30)), offset * math.cos(math.radians(30)))
        assert after.poses[1, :2] == pytest.approx((10 + across[0], 20 + across[1]), abs=1e-8)
        assert proposal.freedoms == 1
    (fit,) = join(document, "block.middle", "guide.axis", "prismatic").play
    assert fit.play == pytest.approx(0.2)


def test_a_pin_picked_after_its_slot_still_runs_in_the_slot() -> None:
    parts = (recipe("slotted_link").part("arm"), recipe("crank").part("crank"))
    document = m.Document(
        parts=parts,
        bodies=(
            m.Body(id="crank", part="crank", fixed=True),
            m.Body(id="arm", part="arm", pose=m.Pose(x=50, y=60, angle=40)),
        ),
    )
    for first, second in (("arm.slot", "crank.pin"), ("crank.pin", "arm.slot")):
        proposal = join(document, first, second, "pin_in_slot")
        (joint,) = proposal.resolved.document.joints
        assert joint.first.body == "arm"
        assert [(p.slab, p.hole) for p in joint.first.pieces] == [("bar", "slot")]
        assert [p.slab for p in joint.second.pieces] == ["pin"]


def test_blocks_and_pins_come_onto_their_arc() -> None:
    parts = (recipe("arc_guide").part("guide", radius="80 mm"), recipe("block").part("block"))
    document = m.Document(
        parts=parts,
        bodies=(
            m.Body(id="guide", part="guide", fixed=True),
            m.Body(id="block", part="block", pose=m.Pose(x=150, y=150, angle=12)),
        ),
    )
    for kind, freedoms in (("block_on_arc", 1), ("pin_on_arc", 2)):
        proposal = join(document, "block.middle", "guide.centre", kind, radius=80.0)
        after = resolve(proposal.edit.apply(document))
        x, y, angle = after.poses[1]
        assert math.hypot(x, y) == pytest.approx(80.0, abs=1e-8)
        assert math.atan2(y, x) == pytest.approx(math.pi / 4)
        assert proposal.freedoms == freedoms
        if kind == "block_on_arc":
            assert build.wrap(angle - math.radians(135)) == pytest.approx(0, abs=1e-9)


def test_spots_are_found_by_place_with_their_reason() -> None:
    document = bench(crank="40 mm")
    resolved = resolve(document)
    x, y, angle = resolved.poses[1]
    near = (float(x + 40 * math.cos(angle)), float(y + 40 * math.sin(angle)) + 1.0)
    found = snaps_at(resolved, resolved.poses, *near, reach=3.0)
    assert [(s.body, s.snap.place.id) for s in found] == [("crank", "b")]
    assert found[0].snap.words == "b, hole 8.20 mm"
    several = snaps_at(resolved, resolved.poses, 0.0, 0.0, reach=1.0)
    assert several[0].snap.known
    assert snaps_at(resolved, resolved.poses, 900.0, 900.0, reach=1.0) == ()


def test_a_spot_that_becomes_a_place_follows_its_part() -> None:
    document = bench(crank="40 mm")
    resolved = resolve(document)
    edge = next(
        s
        for s in snaps_at(resolved, resolved.poses, 50.0, 25.0, reach=1.0)
        if s.snap.words == "middle of edge"
    )
    ends = [placed_snap(resolved, resolved.poses, "crank", "a"), edge]
    document = propose(resolved, resolved.poses, Wish(*ends, "revolute")).edit.apply(document)
    base = document.part("base")
    deeper = tuple(
        d.model_copy(update={"value": "70 mm"}) if d.id == "depth" else d for d in base.dimensions
    )
    base = base.model_copy(update={"dimensions": deeper})
    document = document.model_copy(update={"parts": (base, *document.parts[1:])})
    place = document.joints[0].first.place
    assert resolve(document).parts["base"].places[place][:2] == pytest.approx((50.0, 35.0))


def test_doubts_come_with_what_mends_them() -> None:
    document = bench(crank="40 mm", coupler="120 mm", rocker="80 mm")
    free = SetBody("base", "fixed", False).apply(document)
    kinds = {d.kind: d for d in diagnostics(resolve(free), None)}
    assert kinds["no frame"].fix is not None
    assert kinds["no frame"].fix.apply(free) == document
    assert kinds["not joined"].words == "4 parts not joined yet"
    document, _ = four_bar()
    assert [d.words for d in diagnostics(resolve(document), evaluate(document))] == [
        "1 free motion: crank, coupler and rocker can turn"
    ]
    twin = document.bodies[1].model_copy(update={"id": "crank_2"})
    doubled = document.model_copy(update={"bodies": (*document.bodies, twin)})
    found = next(d for d in diagnostics(resolve(doubled), None) if d.kind == "twins")
    assert found.fix is not None
    assert found.fix.apply(doubled) == document
    tight = document.part("crank").model_copy(
        update={
            "dimensions": tuple(
                d.model_copy(update={"value": "7.9 mm"}) if d.id == "hole" else d
                for d in document.part("crank").dimensions
            )
        }
    )
    parts = tuple(tight if p.id == "crank" else p for p in document.parts)
    document = document.model_copy(update={"parts": parts})
    found = next(d for d in diagnostics(resolve(document), None) if d.kind == "tight")
    assert "8.00 mm in 7.90 mm, less than no play" in found.words
    assert found.fix is not None
    after = resolve(found.fix.apply(document))
    assert not [d for d in diagnostics(after, None) if d.kind == "tight"]


@pytest.mark.parametrize("seed", range(16))
def test_a_second_loop_does_not_turn_over_the_first(seed: int) -> None:
    """Whatever the lengths and wherever the new links stand, the four-bar keeps its side."""
    random = np.random.default_rng(seed)
    document, _ = four_bar(branch=seed % 2)
    for k in (5, 6):
        part = recipe("link").part(f"link{k}", length=f"{random.uniform(60, 140):.3f} mm")
        pose = m.Pose(
            x=float(random.uniform(-150, 150)),
            y=float(random.uniform(-150, 150)),
            angle=float(random.uniform(-180, 180)),
        )
        body = m.Body(id=f"link{k}", part=f"link{k}", pose=pose)
        document = document.model_copy(
            update={"parts": (*document.parts, part), "bodies": (*document.bodies, body)}
        )
    before = resolve(document)
    side = _side_of_coupler(before)
    ends = (("link5.a", "rocker.b"), ("link6.a", "base.a"), ("link5.b", "link6.b"))
    for first, second in ends:
        proposal = join(document, first, second)
        if not proposal.is_closed:
            assert first == "link5.b"
            assert proposal.apart > 0
            return
        document = proposal.edit.apply(document)
    after = resolve(document)
    assert _side_of_coupler(after) * side > 0
    assert evaluate(document).followed.mobility.freedoms == 1


def _side_of_coupler(resolved: Resolved) -> float:
    """On which side of the line from the crank pin to the rocker pivot the rocker pin lies."""
    places = {}
    for name in ("crank.b", "rocker.a", "rocker.b"):
        snap = placed_snap(resolved, resolved.poses, *name.split("."))
        places[name] = np.array([snap.x, snap.y])
    along = places["rocker.a"] - places["crank.b"]
    away = places["rocker.b"] - places["crank.b"]
    return float(along[0] * away[1] - along[1] * away[0])


def test_a_joint_takes_another_place_or_body_and_keeps_what_belongs_to_it() -> None:
    """The rocker's pivot goes to a post beside the base: the loop follows, the limits stay."""
    document, _ = four_bar()
    document = SetLimit("rocker_on_base", "greatest", "170 deg").apply(document)
    driven = m.Driver(id="d", joint="crank_on_base", start="30 deg", rate="30 rpm")
    document = AddDriver(driven, "40 deg", "1 deg").apply(document)
    base = document.body("base")
    post = base.model_copy(update={"id": "post", "pose": m.Pose(x=12.0), "name": "post"})
    document = document.model_copy(update={"bodies": (*document.bodies, post)})
    resolved = resolve(document)
    snap = placed_snap(resolved, resolved.poses, "post", "b")
    found = rejoined(resolved, resolved.poses, "rocker_on_base", first=snap)
    assert found.proposal.is_closed and found.misfits == ()
    after = found.edit.apply(document)
    joint = after.joint("rocker_on_base")
    assert (joint.first.body, joint.first.place) == ("post", "b")
    assert joint.limits.greatest == "170 deg" and joint.first.pieces
    assert after.program == document.program
    there = build.mechanism(after)
    residual = System(there).residual(resolve(after).poses, there.row_target)
    assert float(np.abs(residual).max()) < 1e-7
    far = m.Pose(x=4000.0)
    away = document.model_copy(
        update={"bodies": (*document.bodies[:-1], post.model_copy(update={"pose": far}))}
    )
    resolved = resolve(away)
    snap = placed_snap(resolved, resolved.poses, "post", "b")
    assert not rejoined(resolved, resolved.poses, "rocker_on_base", first=snap).proposal.is_closed


def test_limits_that_no_longer_fit_are_named_when_a_joint_is_flipped() -> None:
    document = bench(slide="40 mm")
    document = join(document, "slide.a", "base.a", "prismatic").edit.apply(document)
    (joint,) = document.joints
    value = joint_value(Scene(resolve(document), resolve(document).poses), joint.id)
    assert value is not None
    low, high = f"{value - 1} mm", f"{value + 1} mm"
    document = SetLimit(joint.id, "least", low).apply(document)
    document = SetLimit(joint.id, "greatest", high).apply(document)
    resolved = resolve(document)
    found = rejoined(resolved, resolved.poses, joint.id, flip=True)
    after = resolve(found.edit.apply(document))
    turned = after.poses - resolved.poses
    moved = np.abs(np.mod(turned[:, 2] + 1.0, 2 * math.pi) - 1.0).max()
    assert moved == pytest.approx(math.pi)
    assert after.joints[0].least == pytest.approx(value - 1)
    # It comes back to the same place along its axis or names its limits; never silently neither.
    there = joint_value(Scene(after, after.poses), joint.id)
    assert (abs(there - value) < 1 + 1e-9) == (found.misfits == ())


@pytest.mark.parametrize("name", demo_names())
def test_every_spot_of_every_ready_mechanism_can_become_a_place(name: str) -> None:
    """Plain numbers beside expressions: each snap is written so that it can be read again."""
    resolved = resolve(read_document(demo_path(name)))
    for snap in all_snaps(resolved, resolved.poses):
        if snap.snap.known:
            continue
        part = resolved.document.body(snap.body).part
        marked = AddPlaces(part, (snap.snap.place,)).apply(resolved.source)
        x, y, angle = resolve(marked).parts[part].places[snap.snap.place.id]
        assert (x, y) == pytest.approx((snap.snap.x, snap.snap.y), abs=1e-9)
        assert math.cos(angle - snap.snap.angle) == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("one", "other", "kind"),
    [
        ("slotted_link.slot", "crank.pin", "pin_in_slot"),
        ("geneva.centre", "crank.pin", "revolute"),
        ("block.middle", "guide.axis", "prismatic"),
        ("link.a", "crank.shaft", "revolute"),
    ],
)
def test_two_places_suggest_a_kind_by_what_they_are_not_by_their_words(
    one: str, other: str, kind: str
) -> None:
    """A Geneva wheel of four slots has none at its centre."""
    ids = ("slotted_link", "crank", "block", "guide", "link")
    wheel = m.GenevaWheel(
        shape="geneva_wheel", slots=4, centres=60, slot=8, lock=36, turned="45 deg"
    )
    geneva = m.Part(
        id="geneva",
        places=(m.Place(id="centre"),),
        slabs=(m.Slab(id="wheel", top=6, outline=wheel),),
    )
    parts = (*(recipe(name).part(name) for name in ids), geneva)
    document = m.Document(
        parts=parts, bodies=tuple(m.Body(id=part.id, part=part.id) for part in parts)
    )
    resolved = resolve(document)
    snaps = [placed_snap(resolved, resolved.poses, *name.split(".")) for name in (one, other)]
    assert likely_kind(snaps[0], snaps[1]) == kind
