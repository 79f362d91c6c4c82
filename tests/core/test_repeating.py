"""The same again: copies with their joints, mirrors, rings, chains and units."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.authoring.repeat_wishes import unit_again
from anakinema.authoring.repeating import (
    chained,
    fitting_snaps,
    joints_outward,
    onto_shifts,
    repeated,
)
from anakinema.authoring.scene import Scene
from anakinema.authoring.shifts import mirror_about, ring_shifts, row_shifts, stack_shifts
from anakinema.authoring.subassemblies import made_unit, taken_apart
from anakinema.document import model as m
from anakinema.document.depending import Going
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits.structure import Remove
from anakinema.edits.values import SetLimit
from anakinema.errors import MissingNameError, ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document
from anakinema.findings.evaluate import evaluate
from anakinema.parts.shelf import recipe
from tests import mechanisms as build
from tests.core.test_drag import open_by
from tests.core.test_joining import bench, four_bar, join


def closed(document: m.Document) -> Resolved:
    """The document resolved; its drawn poses must be assembled."""
    resolved = resolve(document)
    mechanism = build.mechanism(document)
    assert open_by(mechanism, resolved.poses) < 1e-7
    return resolved


def test_a_row_of_copies_keeps_joints_among_them_and_lists_those_left_open() -> None:
    document, _ = four_bar()
    resolved = resolve(document)
    moving = ("crank", "coupler", "rocker")
    found = repeated(resolved, resolved.poses, moving, row_shifts(3, 300.0, 0.0))
    after = closed(found.edit.apply(document))
    assert len(after.document.bodies) == 4 + 2 * 3
    # Two joints among the three, twice; the two to the base find no pin 300 mm away.
    assert len(after.document.joints) == 4 + 2 * 2
    assert found.open == ("crank on base", "rocker on base")
    shift = after.poses[4:7] - after.poses[1:4]
    assert shift == pytest.approx(np.tile([300.0, 0.0, 0.0], (3, 1)))


def test_a_copy_along_the_stack_finds_the_same_places_and_doubles_the_arm() -> None:
    document, _ = four_bar()
    resolved = resolve(document)
    found = repeated(resolved, resolved.poses, ("coupler",), stack_shifts(2, 20.0))
    assert found.open == ()
    document = found.edit.apply(document)
    after = closed(document)
    assert after.heights[-1] == pytest.approx(after.heights[2] + 20.0)
    mobility = evaluate(document).followed.mobility
    assert (mobility.freedoms, mobility.repeated) == (1, 1)


def test_a_ring_of_copies_stands_round_its_centre() -> None:
    document = bench(crank="40 mm")
    resolved = resolve(document)
    found = repeated(resolved, resolved.poses, ("crank",), ring_shifts(6, 50.0, 10.0, math.pi / 3))
    after = resolve(found.edit.apply(document))
    centre = np.array([50.0, 10.0])
    away = np.hypot(*(after.poses[1:, :2] - centre).T)
    assert away == pytest.approx(np.full(6, away[0]))
    turns = np.diff(after.poses[1:, 2])
    assert turns == pytest.approx(np.full(5, math.pi / 3))


def mirrored_pair() -> tuple[m.Document, tuple[str, ...]]:
    """A slide on a level guide with a bell crank above it, pinned to a plate; and its image."""
    plate = m.Part(
        id="plate",
        places=(m.Place(id="axis"), m.Place(id="up", y=50.0), m.Place(id="down", y=-50.0)),
    )
    slide = m.Part(
        id="slide",
        places=(
            m.Place(id="axis"),
            m.Place(id="up", y=10.0, x=20.0),
            m.Place(id="down", y=-10.0, x=20.0),
        ),
    )
    jaw = recipe("bell_crank").part("jaw", short_arm="30 mm", long_arm="45 mm", spread="70 deg")
    rod = recipe("link").part("rod", length="40 mm")
    document = m.Document(
        parts=(plate, slide, jaw, rod),
        bodies=(
            m.Body(id="plate", part="plate", fixed=True),
            m.Body(id="slide", part="slide", pose=m.Pose(x=-30)),
            m.Body(id="jaw", part="jaw", pose=m.Pose(x=5, y=60, angle=-20)),
            m.Body(id="rod", part="rod", pose=m.Pose(x=0, y=30, angle=30)),
        ),
    )
    document = join(document, "slide.axis", "plate.axis", "prismatic").edit.apply(document)
    for first, second in (("jaw.pivot", "plate.up"), ("rod.a", "slide.up"), ("rod.b", "jaw.b")):
        document = join(document, first, second).edit.apply(document)
    limits = SetLimit("jaw_on_plate", "greatest", "60 deg").apply(document)
    return limits, ("jaw", "rod")


def test_the_mirrored_side_is_joined_where_places_coincide_and_moves_as_the_image() -> None:
    document, side = mirrored_pair()
    resolved = resolve(document)
    found = repeated(resolved, resolved.poses, side, (mirror_about(0.0, 0.0, 0.0),))
    assert found.open == ()
    document = found.edit.apply(document)
    after = closed(document)
    joints = after.document.joints
    assert after.joints[[j.id for j in joints].index("jaw_2_on_plate")].least == pytest.approx(
        -math.radians(60)
    )
    # A bell crank is no mirror image of itself, a link is.
    assert {b.part for b in after.document.bodies} == {
        "plate",
        "slide",
        "jaw",
        "rod",
        "jaw_mirrored",
    }
    slide = next(j.id for j in joints if j.kind == "prismatic")
    start = float(
        build.mechanism(document).values(after.poses)[[j.id for j in joints].index(slide)]
    )
    driver = m.Driver(id="d", joint=slide, start=start, rate="10 mm/(1 s)")
    stage = m.Stage(moves=(m.Move(driver="d", to=start + 8.0),), count=12)
    motion = evaluate(
        document.model_copy(update={"program": m.Program(drivers=(driver,), stages=(stage,))})
    ).motion
    index = {b.id: i for i, b in enumerate(after.document.bodies)}
    one, two = (motion.poses[:, index[name]] for name in ("jaw", "jaw_2"))
    assert np.ptp(one[:, 2]) > 0.03
    assert two[:, 0] == pytest.approx(one[:, 0], abs=1e-7)
    assert two[:, 1] == pytest.approx(-one[:, 1], abs=1e-7)
    assert build.wrap(two[:, 2] + one[:, 2]) == pytest.approx(0, abs=1e-7)


def linked_pair(count: int = 2) -> m.Document:
    """A base and links in a line, each pinned to the one before."""
    document = bench(link="20 mm")
    document = join(document, "link.a", "base.a").edit.apply(document)
    again = m.Body(id="link_2", part="link", pose=m.Pose(x=80, y=60, angle=50))
    document = document.model_copy(update={"bodies": (*document.bodies, again)})
    return join(document, "link_2.a", "link.b").edit.apply(document)


def test_a_chain_of_forty_links_hangs_together() -> None:
    document = linked_pair()
    resolved = resolve(document)
    found = chained(resolved, resolved.poses, ("link_2",), 39)
    document = found.edit.apply(document)
    after = closed(document)
    assert len(after.document.bodies) == 41
    mobility = evaluate(document).followed.mobility
    assert (mobility.freedoms, mobility.repeated) == (40, 0)
    turns = np.diff(after.poses[1:, 2])
    assert turns == pytest.approx(np.full(39, turns[0]), abs=1e-9)


def test_a_unit_moves_inside_and_follows_its_definition() -> None:
    document = linked_pair()
    resolved = resolve(document)
    edit, use = made_unit(resolved, ("link_2",), "half")
    document = edit.apply(document)
    assert parse_document(document_text(document).encode(), "unit") == document
    after = closed(document)
    assert [b.id for b in after.document.bodies] == ["base", "link", "half__link_2"]
    assert after.poses == pytest.approx(resolved.poses)
    assert after.heights == pytest.approx(resolved.heights)
    assert evaluate(document).followed.mobility.freedoms == 2
    with pytest.raises(ValueOutOfRangeError, match="hangs on its equal"):
        chained(after, after.poses, (f"{use}__link_2",), 4)
    again = unit_again(Scene(after, after.poses), use, 60.0, 0.0)
    second = again.bodies[0].partition("__")[0]
    document = again.edit.apply(document)
    document = join(document, f"{second}__link_2.a", f"{use}__link_2.b").edit.apply(document)
    after = closed(document)
    chain = chained(after, after.poses, (f"{second}__link_2",), 38)
    document = chain.edit.apply(document)
    after = closed(document)
    assert len(after.document.bodies) == 41
    assert evaluate(document).followed.mobility.freedoms == 40
    gone = Remove(Going(bodies=frozenset((second,)))).apply(document)
    assert len(resolve(gone).document.bodies) == 40


def test_limits_of_an_inner_joint_are_each_uses_own() -> None:
    document, _ = four_bar()
    resolved = resolve(document)
    edit, use = made_unit(resolved, ("coupler", "rocker"), "arm")
    document = edit.apply(document)
    again = unit_again(Scene(resolve(document), resolved.poses), use, 0.0, 300.0)
    second = again.bodies[0].partition("__")[0]
    document = again.edit.apply(document)
    inner = next(j.id for j in resolve(document).document.joints if j.id.startswith(f"{use}__"))
    document = SetLimit(inner, "greatest", "20 deg").apply(document)
    after = resolve(document)
    values = {j.id: v.greatest for j, v in zip(after.document.joints, after.joints, strict=True)}
    assert values[inner] == pytest.approx(math.radians(20))
    assert values[inner.replace(use, second, 1)] is None


def test_taking_a_unit_apart_gives_back_what_moves_the_same() -> None:
    document, _ = four_bar()
    before = resolve(document)
    edit, use = made_unit(before, ("coupler", "rocker"), "arm")
    unit = edit.apply(document)
    resolved = resolve(unit)
    plain = taken_apart(resolved, resolved.poses, use).apply(unit)
    after = closed(plain)
    assert not plain.instances
    assert sorted(map(tuple, np.round(after.poses, 6))) == sorted(
        map(tuple, np.round(before.poses, 6))
    )
    assert evaluate(plain).followed.mobility.freedoms == 1


def test_units_in_units_and_faulty_ones() -> None:
    document, _ = four_bar()
    edit, _ = made_unit(resolve(document), ("coupler", "rocker"), "arm")
    document = edit.apply(document)
    two = m.Instance(id="two", subassembly="arm", pose=m.Pose(x=500))
    outer = m.Subassembly(id="pair", instances=(m.Instance(id="one", subassembly="arm"), two))
    use = m.Instance(id="both", subassembly="pair", pose=m.Pose(y=900, angle=90))
    nested = document.model_copy(
        update={
            "subassemblies": (*document.subassemblies, outer),
            "instances": (*document.instances, use),
        }
    )
    after = resolve(nested)
    index = {b.id: i for i, b in enumerate(after.document.bodies)}
    one, two = (after.poses[index[f"both__{k}__rocker"]] for k in ("one", "two"))
    assert two - one == pytest.approx([0.0, 500.0, 0.0], abs=1e-9)
    ring = outer.model_copy(update={"instances": (m.Instance(id="self", subassembly="pair"),)})
    belted = nested.model_copy(update={"subassemblies": (document.subassemblies[0], ring)})
    with pytest.raises(ValueOutOfRangeError, match="contains itself"):
        resolve(belted)
    missing = document.model_copy(update={"instances": (m.Instance(id="u", subassembly="none"),)})
    with pytest.raises(MissingNameError, match="no subassembly 'none'"):
        resolve(missing)


def test_what_is_switched_off_takes_no_part() -> None:
    document, _ = four_bar()
    dark = document.bodies[2].model_copy(update={"off": True})
    bodies = tuple(dark if b.id == dark.id else b for b in document.bodies)
    document = document.model_copy(update={"bodies": bodies})
    evaluation = evaluate(document)
    assert [b.id for b in evaluation.document.bodies] == ["base", "crank", "rocker"]
    assert evaluation.followed.mobility.freedoms == 2
    assert evaluation.resolved.off == ("coupler",)
    assert any(
        f.id == "built_in.off" and f.reason == "coupler" for f in evaluation.verdict.findings
    )


def test_units_are_made_of_units_and_taken_apart_a_level_at_a_time() -> None:
    document, _ = four_bar()
    before = resolve(document)
    edit, inner = made_unit(before, ("coupler", "rocker"), "arm")
    document = edit.apply(document)
    resolved = resolve(document)
    crank, arm = "crank", f"{inner}__coupler"
    limit = SetLimit(f"{inner}__{document.subassemblies[0].joints[0].id}", "rest", "5 deg")
    document = limit.apply(document)
    edit, outer = made_unit(resolve(document), (crank, arm), "drive_arm")
    nested = edit.apply(document)
    resolved = resolve(nested)
    assert {b.id for b in resolved.document.bodies} == {
        "base",
        f"{outer}__crank",
        f"{outer}__{inner}__coupler",
        f"{outer}__{inner}__rocker",
    }
    assert [u.id for u in nested.instances] == [outer]
    assert evaluate(nested).followed.mobility.freedoms == 1
    assert sorted(map(tuple, np.round(resolved.poses, 6))) == sorted(
        map(tuple, np.round(before.poses, 6))
    )
    apart = taken_apart(resolved, resolved.poses, outer).apply(nested)
    after = closed(apart)
    assert [u.subassembly for u in apart.instances] == ["arm"]
    assert sorted(after.heights) == pytest.approx(sorted(before.heights))
    assert sorted(map(tuple, np.round(after.poses, 6))) == sorted(
        map(tuple, np.round(before.poses, 6))
    )
    rests = [v.rest for v in after.joints if v.rest is not None]
    assert rests == pytest.approx([math.radians(5)])


def test_a_use_is_repeated_in_a_row_and_mirrored_with_its_limits() -> None:
    document, _ = four_bar()
    edit, use = made_unit(resolve(document), ("coupler", "rocker"), "arm")
    document = edit.apply(document)
    joint = next(j for j in resolve(document).document.joints if j.id.startswith(f"{use}__"))
    document = SetLimit(joint.id, "greatest", "30 deg").apply(document)
    document = SetLimit(joint.id, "least", "-200 deg").apply(document)
    resolved = resolve(document)
    body = (f"{use}__rocker",)
    row = repeated(resolved, resolved.poses, body, row_shifts(3, 0.0, 400.0))
    after = resolve(row.edit.apply(document))
    assert len(after.source.instances) == 3 and len(row.bodies) == 4
    image = repeated(resolved, resolved.poses, body, (mirror_about(0.0, -200.0, 0.0),))
    document = image.edit.apply(document)
    after = closed(document)
    ids = [b.id for b in after.document.bodies]
    new = image.bodies[0].partition("__")[0]
    for name in ("coupler", "rocker"):
        one, two = (after.poses[ids.index(f"{u}__{name}")] for u in (use, new))
        assert two == pytest.approx([one[0], -400 - one[1], -one[2]], abs=1e-7)
    values = {j.id: v for j, v in zip(after.document.joints, after.joints, strict=True)}
    mine, theirs = values[joint.id], values[joint.id.replace(use, new, 1)]
    assert (theirs.least, theirs.greatest) == pytest.approx((-mine.greatest, -mine.least))
    assert len(image.open) == 2


def test_a_part_comes_again_onto_chosen_holes_with_chosen_joints() -> None:
    plate = recipe("plate").part(
        "plate", length="140 mm", width="140 mm", spacing_x="100 mm", spacing_y="100 mm"
    )
    pin = recipe("pin").part("pin")
    document = m.Document(
        parts=(plate, pin),
        bodies=(
            m.Body(id="plate", part="plate", fixed=True),
            m.Body(id="pin", part="pin", pose=m.Pose(x=300.0)),
        ),
    )
    hole = next(p.id for p in plate.places if p.id != "middle")
    place = pin.places[0].id
    document = join(document, f"pin.{place}", f"plate.{hole}").edit.apply(document)
    resolved = resolve(document)
    (joint,) = joints_outward(resolved, ("pin",))
    offered = fitting_snaps(resolved, resolved.poses, ("pin",), joint.id)
    holes = {(s.x, s.y) for s in offered}
    assert len(holes) == 3 and all(abs(x) == abs(y) == 50 for x, y in holes)
    shifts = onto_shifts(resolved, resolved.poses, ("pin",), joint.id, offered[:2])
    found = repeated(resolved, resolved.poses, ("pin",), shifts)
    after = closed(found.edit.apply(document))
    assert found.open == () and len(after.document.joints) == 3
    assert evaluate(after.source).followed.mobility.freedoms == 3
    loose = repeated(resolved, resolved.poses, ("pin",), shifts, without={joint.id})
    assert len(resolve(loose.edit.apply(document)).document.joints) == 1


def test_a_copy_is_joined_to_another_body_where_places_coincide() -> None:
    """A second base stands where the copy of the rocker comes to lie."""
    document, _ = four_bar()
    base = document.body("base")
    resolved = resolve(document)
    x, y, angle = resolved.poses[0]
    again = base.model_copy(
        update={"id": "base_2", "pose": m.Pose(x=x + 300, y=y, angle=math.degrees(angle))}
    )
    document = document.model_copy(update={"bodies": (*document.bodies, again)})
    resolved = resolve(document)
    moving = ("crank", "coupler", "rocker")
    found = repeated(resolved, resolved.poses, moving, row_shifts(2, 300.0, 0.0))
    assert found.open == ()
    after = closed(found.edit.apply(document))
    on = {s.body for j in after.document.joints[4:] for s in (j.first, j.second)}
    assert "base_2" in on and "base" not in on
