"""Edits of what there is: each does what its label says, and nothing else."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.authoring.contacting import touch_limit, yielding
from anakinema.authoring.mirroring import mirrored_part
from anakinema.authoring.rehang import hangers, one_piece, removed
from anakinema.authoring.rejoining import rejoined
from anakinema.authoring.rekinding import rekinded
from anakinema.authoring.subassemblies import made_unit
from anakinema.document import model as m
from anakinema.document.depending import Going, dependents, without
from anakinema.document.resolve import resolve
from anakinema.edits import joints as joint_edits
from anakinema.edits import parts as part_edits
from anakinema.edits import structure as s
from anakinema.edits.base import Together, fresh_id
from anakinema.edits.history import History
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.values import SetDimension, SetLimit
from anakinema.errors import AnakinemaError, ExpressionError, ValueOutOfRangeError
from anakinema.expressions import completed
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.parts.shelf import SHELF
from anakinema.resources import demo_names, demo_path
from anakinema.units import UnitSystem
from tests import mechanisms as build
from tests.conftest import some
from tests.core.test_joining import bench, four_bar, join
from tests.ready import evaluated

SHUTTLE = read_document(demo_path("tray-shuttle"))


def driven_bar() -> m.Document:
    document, _ = four_bar()
    driver = m.Driver(id="crank", joint="crank_on_base", start="20 deg", rate="10 rpm")
    stage = m.Stage(moves=(m.Move(driver="crank", to="200 deg"),), count=30)
    return document.model_copy(update={"program": m.Program(drivers=(driver,), stages=(stage,))})


@given(st.text(max_size=30), st.lists(st.text(max_size=8), max_size=6))
def test_fresh_ids_are_valid_and_fresh(wanted: str, taken: list[str]) -> None:
    found = fresh_id(wanted, taken)
    assert found not in taken
    assert m.Parameter(id=found, value=1).id == found
    assert "__" not in found
    again = fresh_id(wanted, [*taken, found])
    assert again not in (*taken, found)


def test_a_reversed_joint_counts_the_other_way_and_moves_the_same() -> None:
    document = SetLimit("crank_on_base", "greatest", "230 deg").apply(driven_bar())
    before = evaluate(document)
    after = evaluate(joint_edits.ReverseJoint("crank_on_base").apply(document))
    joint = [j.id for j in before.document.joints].index("crank_on_base")
    assert after.motion.values[:, joint] == pytest.approx(-before.motion.values[:, joint])
    assert after.motion.poses == pytest.approx(before.motion.poses, abs=1e-9)
    limits = after.resolved.joints[joint]
    assert (limits.least, limits.greatest) == (pytest.approx(-math.radians(230)), None)
    twice = joint_edits.ReverseJoint("crank_on_base").apply(
        joint_edits.ReverseJoint("crank_on_base").apply(document)
    )
    assert evaluate(twice).motion.values == pytest.approx(before.motion.values)


@given(st.floats(-3, 3))
@hypothesis_settings(max_examples=15)
def test_another_zero_moves_numbers_not_the_mechanism(away: float) -> None:
    document = SetLimit("crank_on_base", "greatest", "230 deg").apply(driven_bar())
    before, after = (
        evaluate(document),
        evaluate(joint_edits.SetZero("crank_on_base", away).apply(document)),
    )
    joint = [j.id for j in before.document.joints].index("crank_on_base")
    assert after.motion.poses == pytest.approx(before.motion.poses, abs=1e-7)
    shown = after.motion.values[:, joint] - (before.motion.values[:, joint] - away)
    assert shown == pytest.approx(0, abs=1e-7)
    greatest = after.resolved.joints[joint].greatest
    assert greatest == pytest.approx(math.radians(230) - away)


def test_ids_of_different_kinds_may_be_alike() -> None:
    """A driver called like its body stays when only another body goes, and the reverse."""
    document = driven_bar()
    gone = dependents(document, Going(bodies=frozenset(("rocker",))))
    assert gone.joints == {"rocker_on_base", "coupler_on_rocker"}
    assert not gone.drivers
    without_driver = without(document, Going(drivers=frozenset(("crank",))))
    assert without_driver.bodies == document.bodies
    assert not without_driver.program.stages
    without_body = without(document, Going(bodies=frozenset(("crank",))))
    assert not without_body.program.drivers
    assert "crank" not in {b.id for b in without_body.bodies}


def test_titles_of_what_goes_leave_out_what_was_chosen() -> None:
    chosen = Going(bodies=frozenset(("rocker",)))
    titles = dependents(SHUTTLE, chosen).titles(SHUTTLE, chosen)
    joints = [j for j in SHUTTLE.joints if "rocker" in (j.first.body, j.second.body)]
    assert titles[: len(joints)] == [j.title for j in joints]
    assert len(titles) > len(joints)
    assert resolve(without(SHUTTLE, chosen)).document.bodies


def test_a_part_in_use_is_not_removed_and_an_unused_one_is() -> None:
    document, _ = four_bar()
    with pytest.raises(KeyError):
        part_edits.RemovePart("crank").apply(document)
    spare = document.model_copy(update={"parts": (*document.parts, m.Part(id="spare"))})
    assert part_edits.RemovePart("spare").apply(spare) == document


def test_a_split_part_no_longer_follows() -> None:
    document, _ = four_bar()
    twin = document.bodies[1].model_copy(update={"id": "other", "height": 90.0})
    document = document.model_copy(update={"bodies": (*document.bodies, twin)})
    split = part_edits.SplitPart("other", "own").apply(document)
    longer = resolve(SetDimension("crank", "length", "77 mm").apply(split))
    assert longer.parts["crank"].places["b"][0] == 77.0
    assert longer.parts["own"].places["b"][0] == 40.0


def test_parameters_come_and_go_and_expressions_say_what_is_missing() -> None:
    document, _ = four_bar()
    document = part_edits.AddParameter(m.Parameter(id="arm", value="44 mm")).apply(document)
    document = SetDimension("crank", "length", "arm").apply(document)
    assert resolve(document).parts["crank"].places["b"][0] == 44.0
    with pytest.raises(KeyError):
        part_edits.AddParameter(m.Parameter(id="arm", value=1)).apply(document)
    with pytest.raises(ExpressionError, match="no parameter or dimension 'arm'"):
        resolve(part_edits.RemoveParameter("arm").apply(document))


def test_several_edits_at_once_are_one_step() -> None:
    history = History(SHUTTLE)
    history.do(
        Together(
            "Two",
            (s.SetBody("crank", "name", "disc"), part_edits.SetPart("rocker", "colour", "rose")),
        )
    )
    assert history.document.body("crank").name == "disc"
    assert history.undo_label == "Two"
    assert history.undo() is SHUTTLE


@pytest.mark.parametrize("length", ["in", "cm", "thou", "m"])
def test_other_units_change_no_size(length: str) -> None:
    document = driven_bar()
    before = evaluate(document)
    edit = SetUnits(length, "rad")
    after = evaluate(edit.apply(document))
    assert after.motion.poses == pytest.approx(before.motion.poses, abs=1e-6)
    assert after.resolved.heights == pytest.approx(before.resolved.heights, abs=1e-6)
    assert after.resolved.units.length == length
    assert edit.apply(edit.apply(document)) == edit.apply(document)


def test_units_are_refused_where_a_bare_number_would_change_its_size() -> None:
    bare = SetDimension("crank", "length", 40.0).apply(driven_bar())
    thick = SetDimension("crank", "width", "2*8").apply(bare)
    with pytest.raises(ValueOutOfRangeError, match="no unit") as caught:
        SetUnits("in", "deg").apply(thick)
    assert "crank" in caught.value.where


@pytest.mark.parametrize(
    ("typed", "like", "wanted"),
    [
        ("100", "120 mm", "100 mm"),
        ("100", "3*crank", "100"),
        ("2*3", "120 mm", "2*3"),
        (" 7.5 ", "5 deg", "7.5 deg"),
        ("4", "30 rpm", "4 rpm"),
        ("9", "", "9"),
        ("-3", "2 cm", "-3 mm"),
        ("5 in", "120 mm", "5 in"),
    ],
)
def test_a_bare_number_takes_the_unit_of_what_stood_there(
    typed: str, like: str, wanted: str
) -> None:
    assert completed(typed, like, UnitSystem()) == wanted


@pytest.mark.parametrize("item", [i for i in SHELF if i.cams], ids=lambda item: item.id)
def test_a_designed_cam_is_not_mirrored_but_says_the_way_out(item) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(AnakinemaError, match="another cam") as stated:
        mirrored_part(item.part("thing"))
    assert "Copy it" in stated.value.remedy


@pytest.mark.parametrize("item", [i for i in SHELF if not i.cams], ids=lambda item: item.id)
def test_mirror_images_have_the_same_area_and_mirrored_places(item) -> None:  # type: ignore[no-untyped-def]
    part = item.part("thing")
    image = mirrored_part(part)
    if image is None:
        image = part
    documents = [
        m.Document(parts=(p,), bodies=(m.Body(id="b", part="thing"),)) for p in (part, image)
    ]
    one, two = (resolve(d).parts["thing"] for d in documents)
    for a, b in zip(one.slabs, two.slabs, strict=True):
        assert b.region.polygon.area == pytest.approx(a.region.polygon.area, rel=1e-6)
    for name, (x, y, angle) in one.places.items():
        px, py, turned = two.places[name]
        assert (px, py) == pytest.approx((x, -y), abs=1e-9)
        assert build.wrap(turned + angle) == pytest.approx(0, abs=1e-9)
    assert mirrored_part(image) in (None, part) or resolve(documents[0])


def test_joints_hang_on_what_is_at_the_same_place() -> None:
    document, _ = four_bar()
    resolved = resolve(document)
    offers = hangers(resolved, resolved.poses, frozenset(("coupler",)))
    assert set(offers) == {"coupler_on_crank", "coupler_on_rocker"}
    assert not any(offers.values())
    twin = document.bodies[2].model_copy(update={"id": "twin", "height": 50.0})
    document = document.model_copy(update={"bodies": (*document.bodies, twin)})
    resolved = resolve(document)
    offers = hangers(resolved, resolved.poses, frozenset(("coupler",)))
    hung = {joint: snaps[0] for joint, snaps in offers.items()}
    assert {snap.body for snap in hung.values()} == {"twin"}
    after = removed(resolved, frozenset(("coupler",)), hung).apply(document)
    assert len(after.joints) == 4
    assert evaluate(after).followed.mobility.freedoms == 1


def test_what_comes_back_to_a_stack_since_changed_gives_up_its_rise() -> None:
    document, _ = four_bar()
    dark = s.SetJoint("coupler_on_rocker", "off", True).apply(document)
    moved = s.SetJoint("coupler_on_crank", "rise", 30.0).apply(dark)
    moved = s.SetJoint("coupler_on_rocker", "rise", 2.0).apply(moved)
    back = s.SetJoint("coupler_on_rocker", "off", False).apply(moved)
    assert back.joint("coupler_on_rocker").rise is None
    assert resolve(back).heights[2] == pytest.approx(30.0 + resolve(back).heights[1])
    away = s.SetBody("coupler", "off", True).apply(document)
    assert s.SetBody("coupler", "off", False).apply(away) == document


def test_one_piece_holds_as_it_stands() -> None:
    document, _ = four_bar()
    resolved = resolve(document)
    piece = one_piece(resolved, resolved.poses, ("crank", "coupler")).apply(document)
    after = evaluate(piece)
    assert after.followed.mobility.freedoms == 0
    assert after.followed.poses == pytest.approx(resolved.poses, abs=1e-7)
    with pytest.raises(ValueOutOfRangeError, match="two bodies"):
        one_piece(resolved, resolved.poses, ("crank",))


def test_another_kind_keeps_what_fits_and_names_what_does_not() -> None:
    document = SetLimit("crank_on_base", "least", "5 deg").apply(driven_bar())
    edit, misfits = rekinded(resolve(document), "crank_on_base", "prismatic")
    assert misfits == ("its limits", "driver crank")
    after = edit.apply(document)
    assert after.joint("crank_on_base").limits == m.Limits()
    assert not after.program.drivers
    edit, misfits = rekinded(resolve(document), "crank_on_base", "block_on_arc")
    assert misfits == ()
    assert edit.apply(document).joint("crank_on_base").radius == 40.0
    resolve(edit.apply(document))


@pytest.mark.campaign
@pytest.mark.parametrize("name", some(demo_names()[1:], 5))
def test_demos_survive_every_reversal_and_a_change_of_units(name: str) -> None:
    before = evaluated(name).motion
    document = evaluated(name).source
    for joint in document.joints:
        if joint_edits.can_reverse(joint):
            document = joint_edits.ReverseJoint(joint.id).apply(document)
    after = evaluate(document).motion
    assert after.poses.shape == before.poses.shape
    scale = np.array([1.0, 1.0, 50.0])
    assert np.abs((after.poses - before.poses) * scale).max() < 1e-5


def test_joining_in_a_document_of_inches() -> None:
    document = SetUnits("in", "deg").apply(bench(crank="40 mm"))
    proposal = join(document, "crank.b", "base.b", stack=5.08)
    after = resolve(proposal.edit.apply(document))
    x, y, angle = after.poses[1]
    tip = (x + 40 * math.cos(angle), y + 40 * math.sin(angle))
    assert tip == pytest.approx((100.0, 0.0), abs=1e-6)
    assert after.heights[1] == pytest.approx(5.08)
    assert after.document.joints[0].rise == pytest.approx(0.2)


def test_units_of_units_are_refused_before_they_are_nested_too_deep() -> None:
    """What cannot be resolved any more is never made."""
    document = build.document(
        [build.part("bar", a=(0, 0), b=(10, 0))],
        [build.body("bar"), build.body("two", part="bar")],
        [],
    )
    for _ in range(20):
        resolved = resolve(document)
        inner = next((b.id for b in resolved.document.bodies if b.id != "two"), "bar")
        try:
            edit, _ = made_unit(resolved, [inner], "unit")
        except ValueOutOfRangeError as error:
            assert "nested more than" in error.what and error.remedy
            break
        document = edit.apply(document)
    else:
        pytest.fail("nested without end")
    assert len(document.subassemblies) > 5
    assert resolve(document).document.bodies


def test_a_joint_that_is_switched_off_says_so_instead_of_going_elsewhere() -> None:
    document = evaluated("tray-shuttle").source
    off = s.SetJoint("rod_pin", "off", True).apply(document)
    evaluation = evaluate(off)
    resolved, poses = evaluation.resolved, evaluation.followed.poses
    with pytest.raises(AnakinemaError, match="switched off"):
        rejoined(resolved, poses, "rod_pin")
    for act in (
        lambda: touch_limit(evaluation, "rod_pin", "least", 0.0),
        lambda: yielding(evaluation, "rod_pin", "spring", 0.0),
    ):
        with pytest.raises(AnakinemaError, match="switched off"):
            act()
