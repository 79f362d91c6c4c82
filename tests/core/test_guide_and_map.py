"""The guided build judges what is there; the chain map stands as the chain does."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.authoring.asking import requirement_of
from anakinema.authoring.asking_wish import AskingWish
from anakinema.authoring.chain import chain_map
from anakinema.authoring.placing import COLOURS, next_colour, placed_at
from anakinema.authoring.scene import Scene, drawn, joint_value
from anakinema.authoring.scene_edits import drive, part_outlines
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.requirements import Ask
from anakinema.edits.values import SetDimension
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.parts.shelf import SHELF, recipe
from anakinema.resources import demo_names, demo_path
from anakinema.session.guide import GuideState, GuideStep, next_step
from tests import mechanisms as build
from tests.core.test_joining import four_bar, join
from tests.core.test_repeating import linked_pair
from tests.ready import evaluated


def built(*items: str) -> m.Document:
    document = m.Document()
    for k, item in enumerate(items):
        document = placed_at(document, f"shelf:{item}", 60.0 * k, 0.0)[0].apply(document)
    return document


def asked(state: GuideState) -> tuple[int, GuideStep]:
    """The step of the four-bar that is next."""
    found = next_step("four-bar", state)
    assert found is not None
    return found


def test_the_guide_starts_with_a_frame_and_follows_what_is_done() -> None:
    number, step = asked(GuideState(m.Document()))
    assert number == 1 and "base with two pins" in step.words
    assert asked(GuideState(m.Document(), tool="place:shelf:base"))[0] == 2
    order = [
        asked(GuideState(built(*items)))[0]
        for items in (
            ("base",),
            ("base", "crank"),
            ("base", "crank", "link"),
            ("base", "crank", "link", "link"),
        )
    ]
    assert order == [3, 5, 7, 9]


def test_the_guide_does_not_mind_another_order() -> None:
    """Links first: the guide asks for what is missing, not for what comes next in its list."""
    assert asked(GuideState(built("link", "link", "crank")))[0] == 1
    found = asked(GuideState(built("link", "link", "crank", "base")))
    assert found[1].point.startswith("drag:")


def test_the_guide_ends_when_all_is_done() -> None:
    document = built("base", "crank", "link", "link")
    document = SetDimension("base", "spacing", "100 mm").apply(document)
    for first, second in (
        ("crank.shaft", "base.a"),
        ("link_2.a", "base.b"),
        ("link.a", "crank.pin"),
        ("link.b", "link_2.b"),
    ):
        document = join(document, first, second).edit.apply(document)
    freedoms = evaluate(document).followed.mobility.freedoms
    assert "Drag the crank" in asked(GuideState(document, freedoms))[1].words
    edit = drive(drawn(document), "crank_on_base")
    assert edit is not None
    driven = edit.apply(document)
    state = GuideState(driven, freedoms, tried=True)
    assert "Press Space" in asked(state)[1].words
    assert asked(replace(state, played=True))[1].point == "widget:station_check"
    wish = AskingWish("travel", "link_2_on_base", value="1 deg")
    driven = Ask(requirement_of(resolve(driven), wish, None)).apply(driven)
    checked = replace(state, document=driven, played=True, station="Check")
    assert "click the crank" in asked(checked)[1].words
    changed = SetDimension("crank", "throw", "28 mm").apply(driven)
    assert next_step("four-bar", replace(checked, document=changed)) is None


def test_a_drive_runs_a_full_turn_or_the_permitted_range() -> None:
    document, _ = four_bar()
    scene = drawn(document)
    edit = drive(scene, "crank_on_base")
    assert edit is not None
    motion = evaluate(edit.apply(document)).motion
    value = joint_value(scene, "crank_on_base")
    assert value is not None
    assert motion.values[0, 0] == pytest.approx(value, abs=1e-6)
    assert motion.values[-1, 0] - motion.values[0, 0] == pytest.approx(build.FULL_TURN, abs=1e-6)
    assert drive(drawn(edit.apply(document)), "crank_on_base") is None
    assert drive(scene, "nothing") is None
    limits = m.Limits(least=f"{value - 0.4} rad", greatest=f"{value + 0.9} rad")
    joints = tuple(
        j.model_copy(update={"limits": limits}) if j.id == "crank_on_base" else j
        for j in document.joints
    )
    ranged = document.model_copy(update={"joints": joints})
    edit = drive(drawn(ranged), "crank_on_base")
    assert edit is not None
    motion = evaluate(edit.apply(ranged)).motion
    assert motion.values[-1, 0] == pytest.approx(value + 0.9, abs=1e-6)


@pytest.mark.parametrize("name", demo_names())
def test_every_body_stands_one_row_above_what_holds_it(name: str) -> None:
    document = resolve(read_document(demo_path(name))).document
    chain = chain_map(document, None)
    assert len(chain.nodes) == len(document.bodies)
    assert len(chain.edges) == len(document.joints)
    rows = [round(node.y * max(chain.rows - 1, 1)) for node in chain.nodes]
    for k, node in enumerate(chain.nodes):
        assert (rows[k] == 0) == node.is_fixed
    joined = {body for edge in chain.edges for body in (edge.first, edge.second)}
    for k in joined:
        if rows[k]:
            near = {
                e.second if e.first == k else e.first
                for e in chain.edges
                if k in (e.first, e.second)
            }
            assert min(rows[other] for other in near) == rows[k] - 1
    places = {(node.x, node.y) for node in chain.nodes}
    assert len(places) == len(chain.nodes)
    assert all(0 < node.x < 1 and 0 <= node.y <= 1 for node in chain.nodes)


def test_the_map_marks_what_is_free_and_what_is_driven() -> None:
    evaluation = evaluate(linked_pair())
    chain = chain_map(evaluation.document, evaluation)
    assert {n.body for n in chain.nodes if n.is_free} == {"link", "link_2"}
    assert not any(edge.is_driven for edge in chain.edges)
    pump = evaluated("water-pump")
    chain = chain_map(pump.document, pump)
    assert not any(node.is_free for node in chain.nodes)
    assert [edge.joint for edge in chain.edges if edge.is_driven] == ["main_bearing"]


def test_joints_between_the_same_bodies_lie_in_lanes_of_their_own() -> None:
    doc = build.document(
        [build.part("a", p=(0, 0), q=(9, 0)), build.part("b", p=(0, 0), q=(9, 0))],
        [build.body("a", fixed=True), build.body("b")],
        [build.joint(f"j{k}", "revolute", "a.p", "b.p") for k in range(4)],
    )
    assert sorted(edge.lane for edge in chain_map(doc, None).edges) == [-1, 0, 1, 2] or sorted(
        edge.lane for edge in chain_map(doc, None).edges
    ) == [-2, -1, 0, 1]


@given(st.lists(st.sampled_from([item.id for item in SHELF]), min_size=1, max_size=9))
@hypothesis_settings(max_examples=25)
def test_placing_gives_fresh_ids_one_frame_and_sound_documents(items: list[str]) -> None:
    document = built(*items)
    ids = [body.id for body in document.bodies]
    assert len(set(ids)) == len(items)
    fixed = [body for body in document.bodies if body.fixed]
    frames = [item for item in items if recipe(item).group == "Frame"]
    assert len(fixed) == (1 if frames else 0)
    resolved = resolve(document)
    assert resolved.poses[:, 0] == pytest.approx([60.0 * k for k in range(len(items))])
    again, body = placed_at(document, f"part:{document.parts[0].id}", 5.0, 6.0)
    after = again.apply(document)
    assert len(after.parts) == len(document.parts)
    assert after.body(body).part == document.parts[0].id


def test_colours_are_spread_before_they_repeat() -> None:
    document = built(*["link"] * 8)
    used = [part.colour for part in document.parts]
    assert len(set(used)) == 8
    assert "sand" not in used
    assert next_colour(document, "sand") == "sand"
    assert next_colour(document, used[0]) in COLOURS


def test_outlines_of_items_and_of_parts_that_are_unsound() -> None:
    document = built("link")
    assert len(part_outlines(document, "shelf:bolt")) == 2
    assert len(part_outlines(document, "part:link")) == 1
    broken = SetDimension("link", "width", "-3 mm").apply(document)
    assert part_outlines(broken, "part:link") == ()


def test_a_scene_knows_its_bodies_and_places() -> None:
    document, _ = four_bar()
    scene = drawn(document)
    assert isinstance(scene, Scene)
    assert [scene.index(b.id) for b in document.bodies] == list(range(4))
    assert scene.index("none") is None
    assert scene.point("base", "b") == pytest.approx((100.0, 0.0))
    assert scene.point("base", "none") is None
    pins = [scene.point("coupler", "b"), scene.point("rocker", "b")]
    for one, two in itertools.pairwise(pins):
        assert one == pytest.approx(two, abs=1e-8)
