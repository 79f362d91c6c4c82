"""Units from other documents: they bring what they need, and are renewed from where they came."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from anakinema.authoring.borrowing import (
    borrowed,
    open_lender,
    renew_unit,
    renewed,
    take_unit,
    units_offered,
)
from anakinema.authoring.scene import Scene
from anakinema.authoring.subassemblies import made_unit
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.structure import SetPoses
from anakinema.edits.values import SetDimension, SetLimit, SetParameter
from anakinema.errors import AnakinemaError, FileFormatError, MissingNameError, ValueOutOfRangeError
from anakinema.expressions import with_names
from anakinema.files.native import document_text, parse_document, read_document, write_document
from anakinema.findings.evaluate import evaluate
from anakinema.resources import demo_path
from tests import mechanisms as build
from tests.core.test_joining import four_bar


def lender() -> m.Document:
    """A four-bar whose crank follows a parameter; coupler and rocker are a unit."""
    document, _ = four_bar()
    document = document.model_copy(
        update={"name": "vent arm", "parameters": (m.Parameter(id="arm", value="40 mm"),)}
    )
    crank = document.body("crank").part
    document = SetDimension(crank, "length", "arm").apply(document)
    edit, _ = made_unit(resolve(document), ("coupler", "rocker"), "arm_pair")
    return edit.apply(document)


def test_names_in_expressions_are_told_otherwise_and_nothing_else_is() -> None:
    names = {"arm": "arm_2", "pin.diameter": "bolt.diameter"}
    assert with_names("2*arm + 3 mm/arms", names) == "2*arm_2 + 3 mm/arms"
    assert with_names("cos(arm/(1 mm)) + pin.diameter ", names) == (
        "cos(arm_2/(1 mm)) + bolt.diameter "
    )


@pytest.mark.parametrize("length", ["mm", "in"])
def test_a_whole_document_comes_as_a_unit_and_moves_as_it_did(length: str) -> None:
    other = lender()
    here = SetUnits(length, "deg").apply(m.Document(name="bench"))
    assert [title for _, title in units_offered(other)] == ["all of vent arm", "arm pair"]
    edit, use = borrowed(here, other, "", "arm.anakinema", 300.0, 40.0)
    after = edit.apply(here)
    assert parse_document(document_text(after).encode(), "x") == after
    before, now = resolve(other), resolve(after)
    shift = now.poses[:, :2] - before.poses[:, :2]
    assert shift == pytest.approx(np.tile([300.0, 40.0], (4, 1)), abs=1e-6)
    assert now.heights == pytest.approx(before.heights, abs=1e-6)
    assert {u.id for u in after.subassemblies} == {"vent_arm", "arm_pair"}
    # What is fixed in the unit is free in its use: three freedoms of the plane more.
    assert (
        evaluate(after).followed.mobility.freedoms == evaluate(other).followed.mobility.freedoms + 3
    )
    assert after.instances[0].id == use


@pytest.mark.parametrize("name", ["cam-dibber", "geneva-feeder", "head-belt", "geared-vent"])
def test_cams_and_wheels_bring_what_their_expressions_need(name: str) -> None:
    """Parameters that are called otherwise here are stated so in every expression."""
    other = read_document(demo_path(name))
    here = m.Document(
        parameters=tuple(p.model_copy(update={"value": 1.0}) for p in other.parameters)
    )
    edit, _ = borrowed(here, other, "", f"{name}.anakinema", 0.0, 0.0)
    after, before = resolve(edit.apply(here)), resolve(other)
    assert len(after.document.parameters) == 2 * len(other.parameters)
    for one, two in zip(before.document.bodies, after.document.bodies, strict=True):
        areas = [
            [s.region.polygon.area for s in each.part_of(body).slabs]
            for each, body in ((before, one), (after, two))
        ]
        assert areas[0] == pytest.approx(areas[1], rel=1e-12)


def test_what_is_equal_is_shared_and_what_only_sounds_the_same_is_not() -> None:
    other = lender()
    same, _ = borrowed(other, other, "arm_pair", "self", 0.0, 500.0)
    after = same.apply(other)
    assert len(after.parts) == len(other.parts)
    longer = SetParameter("arm", "35 mm").apply(other)
    mine = longer.model_copy(
        update={"parts": tuple(p.model_copy(update={"note": "ours"}) for p in longer.parts)}
    )
    edit, _ = borrowed(mine, other, "", "arm.anakinema", 0.0, 0.0)
    after = edit.apply(mine)
    assert {p.id: p.value for p in after.parameters} == {"arm": "35 mm", "arm_2": "40 mm"}
    assert len(after.parts) == 2 * len(other.parts)
    crank = next(p for p in after.parts if p.id == "crank_2")
    assert "arm_2" in {d.value for d in crank.dimensions}
    resolved = resolve(after)
    assert resolved.names["crank_2.length"].value == pytest.approx(40.0)
    assert resolved.names["crank.length"].value == pytest.approx(35.0)


def test_a_copy_is_renewed_and_its_uses_keep_what_is_theirs(tmp_path: Path) -> None:
    path = tmp_path / "arm.anakinema"
    write_document(lender(), path)
    here = m.Document(name="bench")
    scene = Scene(resolve(here), resolve(here).poses)
    edit, inner = take_unit(scene, open_lender(path), "arm_pair", 10.0, 20.0)
    after = edit.apply(here)
    joint = resolve(after).document.joints[0].id
    after = SetLimit(joint, "greatest", "25 deg").apply(after)
    after = SetPoses(((inner, 55.0, 66.0, 0.3),)).apply(after)
    other = SetDimension("coupler", "length", "120 mm").apply(lender())
    write_document(other, path)
    fresh = renew_unit(after, "arm_pair", None).apply(after)
    assert resolve(fresh).names["coupler.length"].value == 120.0
    assert fresh.instances == after.instances
    pose = resolve(fresh).poses[[b.id for b in resolve(fresh).document.bodies].index(inner)]
    assert pose == pytest.approx([55.0, 66.0, 0.3])
    limits = resolve(fresh).joints[0]
    assert limits.greatest == pytest.approx(math.radians(25))
    # It is found beside our own file too, and missed with its name where it is nowhere.
    path.rename(tmp_path / "else.anakinema")
    with pytest.raises(FileFormatError, match=r"arm\.anakinema"):
        renew_unit(after, "arm_pair", tmp_path / "ours" / "bench.anakinema")
    (tmp_path / "ours").mkdir()
    write_document(other, tmp_path / "ours" / "arm.anakinema")
    again = renew_unit(after, "arm_pair", tmp_path / "ours" / "bench.anakinema").apply(after)
    assert again == fresh


def test_what_cannot_be_taken_or_renewed_is_stated() -> None:
    other = lender()
    with pytest.raises(MissingNameError, match="no subassembly 'gone'"):
        borrowed(m.Document(), other, "gone", "x", 0, 0)
    after = borrowed(m.Document(), other, "arm_pair", "x", 0, 0)[0].apply(m.Document())
    measure = build.kept_distance(
        "span",
        m.Side(body="arm_pair__coupler", place="a"),
        m.Side(body="arm_pair__rocker", place="b"),
    )
    after = after.model_copy(update={"measures": (measure,)})
    unit = other.subassemblies[0]
    lost = unit.model_copy(update={"bodies": unit.bodies[:1], "joints": ()})
    shorter = other.model_copy(update={"subassemblies": (lost,), "joints": ()})
    with pytest.raises(MissingNameError, match="arm_pair__rocker"):
        renewed(after, "arm_pair", shorter)
    own = m.Subassembly(id="own", bodies=unit.bodies)
    mine = other.model_copy(update={"subassemblies": (*other.subassemblies, own)})
    with pytest.raises(MissingNameError, match="not taken from another"):
        renewed(mine, "own", other)
    loose = other.model_copy(update={"parameters": (m.Parameter(id="arm", value=30),)})
    inches = SetUnits("in", "deg").apply(m.Document())
    with pytest.raises(ValueOutOfRangeError, match="no unit"):
        borrowed(inches, loose, "", "x", 0, 0)
    with pytest.raises(AnakinemaError):
        borrowed(m.Document(), other.model_copy(update={"parts": ()}), "", "x", 0, 0)
