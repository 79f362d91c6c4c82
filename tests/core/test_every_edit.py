"""Every kind of edit there is, once: it applies, can be saved, is undone exactly and done again."""

from __future__ import annotations

import base64
import dataclasses
import importlib
import pkgutil
from collections.abc import Sequence

import pytest

import anakinema.edits as package
from anakinema.document import model as m
from anakinema.document.depending import Going
from anakinema.document.model import Document
from anakinema.edits import (
    cams,
    hardware,
    joints,
    kept,
    measured_in,
    outline,
    parts,
    pictures,
    planes,
    program,
    relations,
    requirements,
    sheets,
    structure,
    subassemblies,
    values,
)
from anakinema.edits.base import Edit, Together
from anakinema.edits.history import History
from anakinema.files.native import document_text, parse_document, read_document
from anakinema.resources import demo_path
from tests.core.test_edits import SHUTTLE

CAMS = read_document(demo_path("cam-dibber"))
DISC = outline.OutlineKey("sheet", "s")
CORNERS = ((0, 0), (40, 0), (40, 30), (0, 30))
SHEET = m.Part(
    id="sheet",
    dimensions=(m.Parameter(id="deep", value="3 mm"),),
    places=(m.Place(id="mark", x=5.0, y=5.0),),
    slabs=(
        m.Slab(
            id="s",
            top="deep",
            outline=m.Path(shape="path", vertices=tuple(m.Vertex(x=x, y=y) for x, y in CORNERS)),
        ),
    ),
)
HOLE = m.Hole(id="bore", outline=m.Circle(shape="circle", x=10.0, y=10.0, radius=2.0))
BESIDE = structure.Add(
    "Sheet", parts=(SHEET,), bodies=(m.Body(id="one", part="sheet"), m.Body(id="two", part="sheet"))
)
ACROSS = m.AddedDimension(part="rocker", first="pivot", second="rod_pin")
_SIDE = SHUTTLE.joints[0].first
SCREWED = hardware.PutHardware(
    m.Hardware(id="rod_pin", joint=SHUTTLE.joints[0].id, bodies=("screw",)),
    (m.Part(id="screw", places=(m.Place(id="axis"),)),),
    (m.Body(id="screw", part="screw"),),
    (m.Joint(id="held", kind="rigid", first=_SIDE, second=m.Side(body="screw", place="axis")),),
)
LEVEL = m.Relation(
    kind="parallel",
    of=(m.Element(kind="edge", slab="s", index=0), m.Element(kind="edge", slab="s", index=2)),
)
LONG = m.Relation(kind="length", of=(m.Element(kind="edge", slab="s", index=0),), value=40.0)
PICTURE = m.Picture(id="trace", data=base64.b64encode(b"\x89PNG\r\n\x1a\n").decode())
ASKED = m.Requirement(
    id="more", measure=m.GapMeasure(kind="gap", first="push_rod"), reduce="least", least="1 mm"
)
UNIT = subassemblies.MakeSubassembly(("crank", "push_rod"), "pair", "pair_1")
SECOND = m.Driver(id="second", joint="rocker_bearing", start="0 deg", rate="10 rpm")
DRIVEN = structure.AddDriver(SECOND, "10 deg", None)

UPRIGHT = planes.AddPlane(m.Plane(id="side", name="side", tilt="90 deg", on="crank"))
TRIED = kept.Keep(
    m.Trial(
        id="first",
        when="2030-02-03T04:05",
        numbers=(
            m.TrialNumber(name="rod", value="118 mm"),
            m.TrialNumber(part="rocker", name="length", value=2.0),
        ),
        results=(m.TrialResult(title="Travel", outcome="pass", value="176 mm"),),
    )
)

SAMPLES: Sequence[tuple[Document, tuple[Edit, ...]]] = (
    (CAMS, (cams.SetCam("cam", "lobe", "base", "31 mm"),)),
    (CAMS, (cams.SetFollower("cam", "lobe", "radius", "8 mm"),)),
    (CAMS, (cams.SetSegment("cam", "lobe", 0, "turn", "90 deg"),)),
    (CAMS, (cams.SplitSegment("cam", "lobe", 0),)),
    (CAMS, (cams.SplitSegment("cam", "lobe", 0), cams.RemoveSegment("cam", "lobe", 1))),
    (SHUTTLE, (joints.ReverseJoint("rocker_bearing"),)),
    (SHUTTLE, (joints.SetZero("rocker_bearing", 0.2),)),
    (SHUTTLE, (TRIED,)),
    (SHUTTLE, (TRIED, kept.SetKept("trials", "first", "reason", "too long"))),
    (SHUTTLE, (TRIED, kept.RemoveKept("trials", "first"))),
    (SHUTTLE, (sheets.SetSheets("revision", "B"),)),
    (SHUTTLE, (sheets.SetSheets("added", (ACROSS,)),)),
    (SHUTTLE, (sheets.SetSheetDimension(m.SheetDimension(key="arrangement/width", away=4.0)),)),
    (SHUTTLE, (SCREWED,)),
    (SHUTTLE, (SCREWED, hardware.RemoveHardware("rod_pin"))),
    (SHUTTLE, (measured_in.SetUnits("in", "deg"),)),
    (SHUTTLE, (BESIDE, outline.SetOutline(DISC, HOLE.outline))),
    (
        SHUTTLE,
        (BESIDE, outline.SetOutline(DISC, HOLE.outline), outline.SetShape(DISC, "radius", 9.0)),
    ),
    (SHUTTLE, (BESIDE, outline.SetCorner(DISC, 1, (("x", 42.0),)))),
    (SHUTTLE, (BESIDE, outline.AddCorner(DISC, 0, 20.0, -3.0))),
    (SHUTTLE, (BESIDE, outline.RemoveCorner(DISC, 2))),
    (SHUTTLE, (BESIDE, outline.AddHole("sheet", "s", HOLE))),
    (
        SHUTTLE,
        (BESIDE, outline.AddHole("sheet", "s", HOLE), outline.RemoveHole("sheet", "s", "bore")),
    ),
    (SHUTTLE, (BESIDE, outline.AddSlab("sheet", SHEET.slabs[0].model_copy(update={"id": "t"})))),
    (SHUTTLE, (BESIDE, outline.SetSlab("sheet", "s", "top", "4 mm"))),
    (SHUTTLE, (BESIDE, outline.AddPlace("sheet", m.Place(id="new", x=1.0, y=2.0)))),
    (SHUTTLE, (BESIDE, outline.SetPlace("sheet", "mark", (("x", 6.0), ("y", "2*deep"))))),
    (SHUTTLE, (structure.Add("Part", parts=(SHEET,)), parts.RemovePart("sheet"))),
    (SHUTTLE, (BESIDE, parts.SetPart("sheet", "name", "Cover sheet"))),
    (SHUTTLE, (BESIDE, parts.ReplacePart(SHEET.model_copy(update={"note": "bent"})))),
    (SHUTTLE, (BESIDE, parts.AddPlaces("sheet", (m.Place(id="far", x=30.0, y=9.0),)))),
    (SHUTTLE, (BESIDE, parts.SplitPart("two", "sheet_2"))),
    (SHUTTLE, (parts.AddParameter(m.Parameter(id="spare", value="2 mm")),)),
    (
        SHUTTLE,
        (parts.AddParameter(m.Parameter(id="spare", value="2 mm")), parts.RemoveParameter("spare")),
    ),
    (SHUTTLE, (pictures.AddPicture(PICTURE),)),
    (SHUTTLE, (pictures.AddPicture(PICTURE), pictures.SetPicture("trace", (("opacity", 0.3),)))),
    (SHUTTLE, (pictures.AddPicture(PICTURE), pictures.RemovePicture("trace"))),
    (SHUTTLE, (UPRIGHT,)),
    (SHUTTLE, (UPRIGHT, planes.SetPlane("side", "tilt", "80 deg"))),
    (SHUTTLE, (UPRIGHT, planes.RemovePlane("side"))),
    (SHUTTLE, (UPRIGHT, BESIDE, planes.MoveToPlane(("one",), "side"))),
    (SHUTTLE, (UPRIGHT, planes.OnPlane(BESIDE, "side"))),
    (SHUTTLE, (program.SetDriver("crank", "rate", "20 rpm"),)),
    (SHUTTLE, (program.SetStageTarget(0, "crank", "200 deg"),)),
    (SHUTTLE, (program.SetStage(0, "pause", "1 s"),)),
    (SHUTTLE, (program.AddStage(),)),
    (SHUTTLE, (program.AddStage(), program.RemoveStage(1))),
    (SHUTTLE, (program.AddStage(), program.SetStages(SHUTTLE.program.stages[:1]))),
    (SHUTTLE, (program.SetProgramOption("past_limits", True),)),
    (SHUTTLE, (DRIVEN, program.AddMove(0, "second"))),
    (SHUTTLE, (DRIVEN, program.AddMove(0, "second"), program.RemoveMove(0, "second"))),
    (SHUTTLE, (BESIDE, relations.AddRelation("sheet", LEVEL))),
    (
        SHUTTLE,
        (BESIDE, relations.AddRelation("sheet", LEVEL), relations.RemoveRelation("sheet", 0)),
    ),
    (
        SHUTTLE,
        (BESIDE, relations.AddRelation("sheet", LONG), relations.SetRelation("sheet", 0, 41.0)),
    ),
    (SHUTTLE, (BESIDE,)),
    (SHUTTLE, (structure.TakeTheirs(CAMS),)),
    (SHUTTLE, (structure.Remove(Going(bodies=frozenset(("pusher",)))),)),
    (SHUTTLE, (structure.SetPoses((("crank", 1.0, 2.0, 0.3),)),)),
    (SHUTTLE, (structure.SetBody("crank", "name", "Wheel"),)),
    (SHUTTLE, (structure.SetJoint("crank_pin", "name", "Pin"),)),
    (SHUTTLE, (DRIVEN,)),
    (SHUTTLE, (UNIT,)),
    (SHUTTLE, (UNIT, subassemblies.Dissolve("pair_1"))),
    (SHUTTLE, (UNIT, subassemblies.SetInstance("pair_1", "name", "Left pair"))),
    (SHUTTLE, (UNIT, subassemblies.SetSubassembly("pair", "note", "as drawn"))),
    (
        SHUTTLE,
        (UNIT, subassemblies.ReplaceSubassembly(m.Subassembly(id="pair", note="empty for now"))),
    ),
    (SHUTTLE, (values.SetName("Other shuttle"),)),
    (SHUTTLE, (values.SetParameter("rod", "150 mm"),)),
    (SHUTTLE, (values.SetDimension("crank", "radius", "45 mm"),)),
    (SHUTTLE, (values.SetPose("crank", "angle", "0.2 rad"),)),
    (SHUTTLE, (values.SetHeight("crank", "7 mm"),)),
    (SHUTTLE, (values.SetLimit("slide", "least", "-90 mm"),)),
    (SHUTTLE, (values.SetCoupling("screw", "first_size", "5 mm"),)),
    (SHUTTLE, (values.SetContact("touch", "kind", "push"),)),
    (SHUTTLE, (values.SetBelt("belt", "thickness", "1 mm"),)),
    (SHUTTLE, (values.SetBeltWheel("belt", 0, "radius", "21 mm"),)),
    (SHUTTLE, (requirements.SetRequirement("stroke", "least", "1 mm"),)),
    (SHUTTLE, (requirements.SetRequirement("stroke", "off", True),)),
    (SHUTTLE, (requirements.MoveRequirement("stroke", 1),)),
    (SHUTTLE, (requirements.Ask(ASKED),)),
    (SHUTTLE, (requirements.ReplaceRequirement(ASKED.model_copy(update={"id": "stroke"})),)),
    (SHUTTLE, (Together("Both", (values.SetName("A"), values.SetHeight("crank", 3.0))),)),
)


def every_kind() -> set[type]:
    """All classes of edits in all modules of the package."""
    found = set()
    for each in pkgutil.iter_modules(package.__path__):
        module = importlib.import_module(f"{package.__name__}.{each.name}")
        found |= {
            kind
            for kind in vars(module).values()
            if dataclasses.is_dataclass(kind)
            and isinstance(kind, type)
            and kind.__module__ == module.__name__
            and hasattr(kind, "apply")
        }
    return found


def test_no_kind_of_edit_is_forgotten() -> None:
    walked = {type(edits[-1]) for _, edits in SAMPLES}
    assert {kind.__name__ for kind in every_kind() - walked} == set()


@pytest.mark.parametrize(
    ("document", "edits"), SAMPLES, ids=[type(edits[-1]).__name__ for _, edits in SAMPLES]
)
def test_it_applies_is_saved_and_undone_exactly(
    document: Document, edits: tuple[Edit, ...]
) -> None:
    history = History(document)
    for edit in edits[:-1]:
        history.do(edit)
        history.finish_gesture()
    before, edit = history.document, edits[-1]
    text = document_text(before)
    after = history.do(edit)
    assert after != before and edit.label
    assert hash(edit.merge_key) == hash(edit.merge_key)
    assert parse_document(document_text(after).encode(), "after") == after
    assert history.undo_label == edit.label
    history.undo()
    assert history.document is before and document_text(before) == text
    history.redo()
    assert history.document is after
