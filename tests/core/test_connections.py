"""Couplings, loops and contacts go where what they tie goes: units, copies, other documents."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anakinema.authoring.borrowing import borrowed
from anakinema.authoring.repeat_wishes import unit_again
from anakinema.authoring.repeating import repeated
from anakinema.authoring.scene import Scene
from anakinema.authoring.shifts import mirror_about, row_shifts
from anakinema.authoring.subassemblies import made_unit, taken_apart
from anakinema.document import model as m
from anakinema.document.connections import connections_of
from anakinema.document.flatten import joint_kinds
from anakinema.document.references import bodies_named, joints_named
from anakinema.document.resolve import resolve
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.parts import ReplacePart
from anakinema.edits.values import SetLimit
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document
from anakinema.findings.evaluate import evaluate
from tests import mechanisms as build
from tests.contacts import disc, solid, touch

BOX = ("plate", "w0", "w1", "w2", "slide")
MOST = 0.4


def train() -> m.Document:
    """A plate on a pin carries two wheels in mesh (20 and 40 teeth), a belt from the second to a
    third, and a slide that the third moves by 6 mm a radian; a stop tells slide from wheel."""
    plate = build.part(
        "plate", o=(0.0, 0.0), a=(0.0, 30.0), b=(60.0, 30.0), c=(160.0, 30.0), s=(0.0, 80.0, 0.3)
    )
    doc = build.document(
        [
            build.part("base", p=(0.0, 0.0)),
            plate,
            solid("wheel", disc(0.0, 0.0, 5.0), o=(0.0, 0.0)),
            solid("slide", disc(0.0, 0.0, 2.0), o=(0.0, 0.0)),
        ],
        [
            build.body("base", fixed=True),
            build.body("plate"),
            build.body("w0", 0.0, 30.0, part="wheel"),
            build.body("w1", 60.0, 30.0, part="wheel"),
            build.body("w2", 160.0, 30.0, part="wheel"),
            build.body("slide", 0.0, 80.0, 0.3),
        ],
        [
            build.joint("pin", "revolute", "base.p", "plate.o"),
            build.joint("j0", "revolute", "plate.a", "w0.o"),
            build.joint("j1", "revolute", "plate.b", "w1.o"),
            build.joint("j2", "revolute", "plate.c", "w2.o"),
            build.joint("way", "prismatic", "plate.s", "slide.o"),
        ],
    )
    gears = m.Coupling(
        id="mesh", kind="gears", first="j0", second="j1", first_size=20, second_size=40
    )
    screw = m.Coupling(
        id="screw", kind="ratio", first="j2", second="way", first_size="1 rad", second_size="6 mm"
    )
    over = (m.BeltWheel(joint="j1", radius=30.0), m.BeltWheel(joint="j2", radius=15.0))
    return doc.model_copy(
        update={
            "couplings": (gears, screw),
            "belts": (m.Belt(id="belt", wheels=over),),
            "contacts": (touch("stop", "slide", "w2"),),
        }
    )


def moved(doc: m.Document, driver: str, shown: tuple[str, ...], still: str | None) -> list[float]:
    """How far joints come, as drawn and shown, while one turns by 0.4 rad and the pin stands."""
    moves = [(driver, 0.0, MOST)] + ([(still, 0.0, 0.0)] if still else [])
    motion = build.motion(build.driven(doc, *moves, count=8))
    ids = [joint.id for joint in motion.mechanism.resolved.document.joints]
    change = motion.values[-1] - motion.values[0]
    return [float(change[ids.index(name)]) for name in shown]


TRAIN = [MOST, -MOST / 2, -MOST, -6.0 * MOST]
"""Of the wheels and the slide: −20/40, 30/15, 6 mm a radian."""


def boxed() -> tuple[m.Document, str]:
    doc = train()
    edit, use = made_unit(resolve(doc), BOX, "box")
    return edit.apply(doc), use


def test_the_train_itself_moves_by_its_ratios() -> None:
    assert moved(train(), "j0", ("j0", "j1", "j2", "way"), "pin") == pytest.approx(TRAIN)


def test_each_use_of_a_unit_brings_its_couplings_loops_and_contacts() -> None:
    doc, use = boxed()
    assert not list(connections_of(doc))
    assert [connection.id for connection in connections_of(doc.subassemblies[0])] == [
        "mesh",
        "screw",
        "belt",
        "stop_slide",
    ]
    resolved = resolve(doc)
    again = unit_again(Scene(resolved, resolved.poses), use, 0.0, 300.0)
    second = again.bodies[0].partition("__")[0]
    doc = again.edit.apply(doc)
    flat = resolve(doc).document
    names = ("mesh", "screw", "belt", "stop_slide")
    assert sorted(connection.id for connection in connections_of(flat)) == sorted(
        f"{one}__{name}" for name in names for one in (use, second)
    )
    assert flat.contacts[1].first.body == f"{second}__slide"
    assert parse_document(document_text(doc).encode(), "x") == doc
    for one in (use, second):
        names = tuple(f"{one}__{name}" for name in ("j0", "j1", "j2", "way"))
        assert moved(doc, names[0], names, "pin") == pytest.approx(TRAIN)


def test_units_in_units_bring_theirs_from_any_depth() -> None:
    doc, use = boxed()
    edit, outer = made_unit(resolve(doc), (f"{use}__plate",), "crate")
    doc = edit.apply(doc)
    names = tuple(f"{outer}__{use}__{name}" for name in ("j0", "j1", "j2", "way"))
    assert joint_kinds(doc)[names[3]] == "prismatic"
    assert moved(doc, names[0], names, "pin") == pytest.approx(TRAIN)


def test_what_ties_the_inside_to_the_outside_stays_outside() -> None:
    """The plate's own turn, coupled with a wheel on it, names the wheel inside from then on."""
    doc = train()
    outside = m.Coupling(
        id="drag", kind="ratio", first="pin", second="j0", first_size=1.0, second_size=3.0
    )
    doc = doc.model_copy(update={"couplings": (*doc.couplings, outside)})
    edit, use = made_unit(resolve(doc), BOX, "box")
    doc = edit.apply(doc)
    (kept,) = connections_of(doc)
    assert [*joints_named(kept), *bodies_named(kept)] == ["pin", f"{use}__j0"]
    names = (f"{use}__j0", f"{use}__way")
    assert moved(doc, "pin", names, None) == pytest.approx([3 * MOST, -18.0 * MOST])


def test_taking_apart_gives_the_ties_back() -> None:
    doc, use = boxed()
    resolved = resolve(doc)
    plain = taken_apart(resolved, resolved.poses, use).apply(doc)
    assert [connection.id for connection in connections_of(plain)] == [
        f"{use}_{name}" for name in ("mesh", "screw", "belt", "stop_slide")
    ]
    names = tuple(f"{use}_{name}" for name in ("j0", "j1", "j2", "way"))
    assert moved(plain, names[0], names, "pin") == pytest.approx(TRAIN)


def test_copies_have_ties_of_their_own() -> None:
    doc = train()
    resolved = resolve(doc)
    found = repeated(resolved, resolved.poses, BOX, row_shifts(2, 0.0, 300.0))
    after = found.edit.apply(doc)
    assert len(after.couplings) == 4 and len(after.belts) == 2 and len(after.contacts) == 2
    shown = tuple(joint.id for joint in after.joints[-4:])
    # The copy of the plate is on no pin: it is kept still.
    assert moved(after, shown[0], shown, None) == pytest.approx(TRAIN)


@pytest.mark.parametrize("in_unit", [False, True])
def test_the_mirror_image_moves_as_the_image(in_unit: bool) -> None:
    """Driven the other way every body of the image is the mirror image; belts run round anew."""
    doc, use = boxed() if in_unit else (train(), "")
    bodies = tuple(f"{use}__{name}" for name in BOX) if in_unit else BOX
    resolved = resolve(doc)
    found = repeated(resolved, resolved.poses, bodies, (mirror_about(0.0, 0.0, 0.0),))
    after = found.edit.apply(doc)
    flat = resolve(after).document
    mine = f"{use}__j0" if in_unit else "j0"
    plate, other = (
        next(j.id for j in flat.joints if j.second.body == body) for body in found.bodies[:2]
    )
    moves = ((mine, 0.0, MOST), (other, 0.0, -MOST), ("pin", 0.0, 0.1), (plate, 0.0, -0.1))
    motion = build.motion(build.driven(after, *moves, count=6))
    index = [body.id for body in flat.bodies]
    for one, two in zip(bodies, found.bodies, strict=True):
        here, there = (motion.poses[:, index.index(name)] for name in (one, two))
        assert there[:, 0] == pytest.approx(here[:, 0], abs=1e-6)
        assert there[:, 1] == pytest.approx(-here[:, 1], abs=1e-6)
        turned = (there - there[0])[:, 2] + (here - here[0])[:, 2]
        assert turned == pytest.approx(np.zeros(len(turned)), abs=1e-8)


@pytest.mark.parametrize("units", [("mm", "rad"), ("in", "deg")])
def test_a_whole_document_brings_its_ties(units: tuple[str, str]) -> None:
    other = train().model_copy(update={"name": "gear box"})
    here = SetUnits(*units).apply(m.Document(name="bench"))
    edit, use = borrowed(here, other, "", "box.anakinema", 0.0, 0.0)
    after = edit.apply(here)
    names = tuple(f"{use}__{name}" for name in ("j0", "j1", "j2", "way"))
    resolved = resolve(after)
    assert len(list(connections_of(resolved.document))) == 4
    driver = m.Driver(id="d", joint=names[0], start=0.0, rate="1 rad/(1 s)")
    stage = m.Stage(moves=(m.Move(driver="d", to="0.4 rad"),), count=8)
    held = m.Driver(id="p", joint=f"{use}__pin", start=0.0, rate="1 rad/(1 s)")
    program = m.Program(drivers=(driver, held), stages=(stage,))
    motion = build.motion(after.model_copy(update={"program": program}))
    ids = [joint.id for joint in resolved.document.joints]
    change = motion.values[-1] - motion.values[0]
    assert [change[ids.index(name)] for name in names] == pytest.approx(TRAIN, abs=1e-9)


def test_units_of_measure_change_what_is_inside_units_too() -> None:
    """Sizes of inner couplings, belts, and limits that a use sets; also of what is off."""
    doc, use = boxed()
    doc = SetLimit(f"{use}__way", "greatest", 25.4).apply(doc)
    doc = SetLimit(f"{use}__j2", "greatest", math.pi).apply(doc)
    off = doc.model_copy(
        update={"instances": tuple(u.model_copy(update={"off": True}) for u in doc.instances)}
    )
    for each in (doc, off):
        after = SetUnits("in", "deg").apply(each)
        (one,) = after.instances
        limits = {setting.joint: setting.limits.greatest for setting in one.settings}
        assert limits == pytest.approx({"way": 1.0, "j2": 180.0})
        (unit,) = after.subassemblies
        assert unit.belts[0].wheels[0].radius == pytest.approx(30.0 / 25.4)
        assert unit.couplings[0].first_size == 20
    after = SetUnits("in", "deg").apply(doc)
    greatest = [joint.greatest for joint in resolve(after).joints]
    assert greatest == pytest.approx([j.greatest for j in resolve(doc).joints], nan_ok=True)


def test_a_driven_joint_that_is_off_is_measured_by_its_kind() -> None:
    doc = build.driven(train(), ("j0", 0.0, math.pi), ("pin", 0.0, 1.0), count=4)
    joints = tuple(j.model_copy(update={"off": j.id == "j0"}) for j in doc.joints)
    after = SetUnits("mm", "deg").apply(doc.model_copy(update={"joints": joints}))
    assert after.program.stages[0].moves[0].to == pytest.approx(180.0)


def test_what_is_off_in_a_unit_is_off_in_its_uses_and_named() -> None:
    doc, use = boxed()
    (unit,) = doc.subassemblies
    belts = tuple(belt.model_copy(update={"off": True}) for belt in unit.belts)
    doc = doc.model_copy(update={"subassemblies": (unit.model_copy(update={"belts": belts}),)})
    assert not resolve(doc).document.belts
    evaluation = evaluate(doc)
    stated = next(f for f in evaluation.verdict.findings if f.id == "built_in.off")
    assert "box: belt" in stated.reason
    names = (f"{use}__j1", f"{use}__j2")
    assert moved(doc, f"{use}__j0", names, "pin") == pytest.approx([-MOST / 2, 0.0], abs=1e-9)


def test_faulty_ties_in_a_unit_name_the_place() -> None:
    doc, use = boxed()
    (unit,) = doc.subassemblies
    twice = unit.model_copy(update={"couplings": (unit.couplings[0], unit.couplings[0])})
    with pytest.raises(ValueOutOfRangeError, match="subassembly 'box', couplings"):
        resolve(doc.model_copy(update={"subassemblies": (twice,)}))
    lost = unit.couplings[0].model_copy(update={"second": "gone"})
    with pytest.raises(AnakinemaError, match=f"coupling '{use}: mesh'.*no joint"):
        resolve(
            doc.model_copy(
                update={"subassemblies": (unit.model_copy(update={"couplings": (lost,)}),)}
            )
        )


@pytest.mark.parametrize("in_unit", [False, True])
def test_a_part_without_its_slab_leaves_no_piece_named(in_unit: bool) -> None:
    """What meshed or touched by a slab that is gone no longer counts; nothing else goes."""
    doc = train()
    piece, other = m.OutlinePiece(slab="s"), m.OutlinePiece(slab="more")
    more = disc(0.0, 0.0, 4.0).model_copy(update={"id": "more", "bottom": 5.0, "top": 8.0})
    wheel = doc.part("wheel")
    wheel = wheel.model_copy(update={"slabs": (*wheel.slabs, more)})
    mesh = doc.couplings[0].model_copy(
        update={"first_pieces": (piece,), "second_pieces": (other, piece)}
    )
    stop = doc.contacts[0].model_copy(
        update={"second": m.Surface(body="w2", pieces=(piece, other))}
    )
    doc = ReplacePart(wheel).apply(doc)
    doc = doc.model_copy(update={"couplings": (mesh, doc.couplings[1]), "contacts": (stop,)})
    if in_unit:
        doc = made_unit(resolve(doc), BOX, "box")[0].apply(doc)
    after = ReplacePart(wheel.model_copy(update={"slabs": (more,)})).apply(doc)
    holder = after.subassemblies[0] if in_unit else after
    assert holder.couplings[0].first_pieces == ()
    assert holder.couplings[0].second_pieces == (other,)
    assert holder.contacts[0].second == m.Surface(body="w2", pieces=(other,))
    assert holder.contacts[0].first == stop.first and len(holder.belts[0].wheels) == 2
    assert len(resolve(after).document.couplings) == 2
