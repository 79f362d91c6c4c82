"""Edits, history and the session: undo is exact, and a crash costs nothing."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.document.model import Document
from anakinema.document.resolve import resolve
from anakinema.edits import program as p
from anakinema.edits import requirements as r
from anakinema.edits import values as e
from anakinema.edits.base import Edit, Together
from anakinema.edits.history import History
from anakinema.errors import EditRefusedError
from anakinema.files.native import read_document
from anakinema.resources import demo_path
from anakinema.settings import Settings

TEXT = st.characters(exclude_categories=["Cc", "Cs"])
"""What a name may be made of."""
SCREW = m.Coupling(
    id="screw",
    kind="ratio",
    first="crank_pin",
    second="slide",
    first_size="4 mm",
    second_size="2 mm",
    off=True,
)
TOUCH = m.Contact(
    id="touch",
    kind="stop",
    off=True,
    first=m.Surface(body="crank"),
    second=m.Surface(body="rocker"),
)
BELT = m.Belt(
    id="belt",
    off=True,
    wheels=tuple(
        m.BeltWheel(joint=joint, radius="20 mm") for joint in ("crank_bearing", "rocker_bearing")
    ),
)
SHUTTLE = read_document(demo_path("tray-shuttle")).model_copy(
    update={"couplings": (SCREW,), "contacts": (TOUCH,), "belts": (BELT,)}
)
VALUES = st.one_of(st.floats(1, 400).map(lambda v: round(v, 2)), st.sampled_from(("4 mm", "2*3")))
ALL_EDITS = st.one_of(
    st.builds(e.SetName, st.text(TEXT, max_size=20)),
    st.builds(e.SetParameter, st.sampled_from(("centres", "rod", "rail_height")), VALUES),
    st.builds(e.SetDimension, st.just("crank"), st.just("radius"), VALUES),
    st.builds(
        e.SetPose,
        st.sampled_from(("crank", "rocker")),
        st.sampled_from(("x", "y", "angle")),
        VALUES,
    ),
    st.builds(e.SetHeight, st.sampled_from(("crank", "rocker")), VALUES),
    st.builds(
        e.SetLimit,
        st.sampled_from(("slide", "crank_pin")),
        st.sampled_from(("least", "greatest", "rest")),
        st.none() | VALUES,
    ),
    st.builds(p.SetDriver, st.just("crank"), st.sampled_from(("start", "rate")), VALUES),
    st.builds(p.SetStageTarget, st.just(0), st.just("crank"), VALUES),
    st.builds(p.SetStage, st.just(0), st.sampled_from(["step", "lasts", "pause"]), VALUES),
    st.builds(p.SetStage, st.just(0), st.just("law"), st.sampled_from(["harmonic", "constant"])),
    st.builds(p.AddStage),
    st.builds(p.RemoveStage, st.just(1)).map(
        lambda removed: Together("Add and remove", (p.AddStage(), removed))
    ),
    st.builds(
        e.SetCoupling, st.just("screw"), st.sampled_from(["first_size", "second_size"]), VALUES
    ),
    st.builds(e.SetContact, st.just("touch"), st.just("off"), st.booleans()),
    st.builds(e.SetContact, st.just("touch"), st.just("kind"), st.sampled_from(("stop", "push"))),
    st.builds(e.SetBelt, st.just("belt"), st.just("off"), st.booleans()),
    st.builds(e.SetBeltWheel, st.just("belt"), st.just(0), st.just("radius"), VALUES),
    st.builds(p.SetStages, st.just(SHUTTLE.program.stages[:1])),
    st.builds(
        p.SetProgramOption, st.sampled_from(("there_and_back", "past_limits")), st.booleans()
    ),
    st.builds(
        r.SetRequirement,
        st.sampled_from(("stroke", "post_gap")),
        st.sampled_from(("least", "comfort")),
        VALUES,
    ),
)


@given(st.lists(st.tuples(ALL_EDITS, st.booleans()), min_size=1, max_size=25))
@hypothesis_settings(max_examples=60)
def test_undo_all_gives_the_same_object_and_redo_all_the_same_result(steps) -> None:  # type: ignore[no-untyped-def]
    history = History(SHUTTLE)
    for edit, ends_gesture in steps:
        document = history.do(edit)
        assert Document.model_validate(document.model_dump()) == document
        if ends_gesture:
            history.finish_gesture()
    last = history.document
    while history.undo_label is not None:
        history.undo()
    assert history.document is SHUTTLE
    while history.redo_label is not None:
        history.redo()
    assert history.document is last


def test_drivers_join_and_leave_a_stage_at_the_value_they_have() -> None:
    arm = read_document(demo_path("transfer-arm"))
    one, two = (driver.id for driver in arm.program.drivers)
    stages = arm.program.stages
    alone = next(k for k, stage in enumerate(stages) if len(stage.moves) == 1)
    if stages[alone].moves[0].driver == two:
        one, two = two, one
    joined = p.AddMove(alone, two).apply(arm)
    assert [move.driver for move in joined.program.stages[alone].moves] == [one, two]
    resolved = resolve(joined).program
    which = [driver.id for driver in arm.program.drivers].index(two)
    stands = resolved.starts[which]
    for stage in resolved.stages[:alone]:
        stands = dict(stage.moves).get(which, stands)
    assert dict(resolved.stages[alone].moves)[which] == stands
    assert p.RemoveMove(alone, two).apply(joined) == arm
    for edit in (p.AddMove(alone, one), p.RemoveMove(alone, one), p.RemoveMove(alone, two)):
        with pytest.raises(KeyError):
            edit.apply(arm)


def test_steps_of_one_gesture_are_one_undo_step_and_escape_takes_it_back() -> None:
    history = History(SHUTTLE)
    for radius in (47.0, 48.0, 49.0):
        history.do(e.SetDimension("crank", "radius", radius))
    history.finish_gesture()
    history.do(e.SetDimension("crank", "radius", 50.0))
    history.undo()
    assert history.document.part("crank").dimensions[0].value == 49.0
    history.undo()
    assert history.document is SHUTTLE
    history.do(e.SetParameter("rod", "120 mm"))
    history.do(e.SetParameter("rod", "125 mm"))
    assert history.cancel_gesture() is SHUTTLE
    assert history.redo_label is None


@pytest.mark.parametrize(
    "edit",
    [
        e.SetParameter("none", 1.0),
        e.SetDimension("crank", "none", 1.0),
        e.SetPose("x", "x", 1.0),
        e.SetLimit("none", "least", 1.0),
        p.SetDriver("none", "rate", 1.0),
        p.SetStage(7, "step", 1.0),
        p.RemoveStage(9),
        r.SetRequirement("none", "least", 1.0),
    ],
)
def test_an_edit_of_something_gone_changes_nothing(edit: Edit) -> None:
    history = History(SHUTTLE)
    with pytest.raises(EditRefusedError, match="not there"):
        history.do(edit)
    assert history.document is SHUTTLE


def test_settings_are_remembered_and_broken_ones_forgotten(tmp_path: Path) -> None:
    settings = Settings("dark").with_recent(tmp_path / "a").with_recent(tmp_path / "b")
    settings = settings.with_recent(tmp_path / "a")
    for name in ("a", "b", "a"):
        Settings.changed_in(tmp_path, lambda now, n=name: now.with_recent(tmp_path / n))
    Settings.changed_in(tmp_path, lambda now: replace(now, theme="dark"))
    assert Settings.load(tmp_path) == settings
    assert [Path(p).name for p in settings.recent] == ["a", "b"]
    (tmp_path / "settings.json").write_text(json.dumps({"theme": 3}))
    assert Settings.load(tmp_path) == Settings()
