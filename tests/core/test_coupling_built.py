"""Coupling by hand: sizes from the wheels, teeth in mesh, what does not fit stated."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from anakinema.authoring.coupling import coupled_with, coupling_kinds, likely_sizes
from anakinema.document import model as m
from anakinema.document.depending import Going
from anakinema.document.resolve import Resolved, resolve
from anakinema.edits import SetParameter
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.structure import Remove
from anakinema.errors import ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document, read_document
from anakinema.findings.evaluate import evaluate
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import carried
from anakinema.mechanism.axles import Axles
from anakinema.mechanism.slab_pairs import slab_pairs
from anakinema.parts.shelf import recipe
from anakinema.resources import demo_path
from tests import mechanisms as build


def train(
    second: str = "wheel", apart: float = 60.0, angle: float = 0.3, **sizes: str
) -> m.Document:
    """A wheel of 20 teeth and another body on two pins of a base, at odd angles."""
    wheel = recipe("wheel").part("pinion")
    other = recipe(second).part("mate", **sizes)
    x, y = apart * math.cos(angle), apart * math.sin(angle)
    base = m.Part(id="base", places=(m.Place(id="a"), m.Place(id="b", x=x, y=y)))
    bodies = (
        m.Body(id="base", part="base", fixed=True),
        m.Body(id="pinion", part="pinion", pose=m.Pose(angle=11.0)),
        m.Body(id="mate", part="mate", pose=m.Pose(x=x, y=y, angle=-40.0)),
    )
    joints = tuple(
        m.Joint(
            id=f"{body}_axis",
            kind="revolute",
            first=m.Side(body="base", place=place),
            second=m.Side(body=body, place="centre"),
        )
        for body, place in (("pinion", "a"), ("mate", "b"))
    )
    return m.Document(parts=(base, wheel, other), bodies=bodies, joints=joints)


def solid(resolved: Resolved, poses: Floats, body: str) -> shapely.Polygon:
    index = [b.id for b in resolved.document.bodies].index(body)
    x, y, angle = poses[index].tolist()
    polygon = resolved.part_of(resolved.document.bodies[index]).slabs[0].region.polygon
    turned = shapely.affinity.rotate(polygon, angle, (0, 0), use_radians=True)
    return shapely.affinity.translate(turned, x, y)


def couple(document: m.Document, kind: m.CouplingKind):  # type: ignore[no-untyped-def]
    resolved = resolve(document)
    sizes = likely_sizes(resolved, kind, "pinion_axis", "mate_axis")
    return coupled_with(resolved, resolved.poses, kind, "pinion_axis", "mate_axis", sizes)


def moving(document: m.Document):  # type: ignore[no-untyped-def]
    driver = m.Driver(id="d", joint="pinion_axis", start="11 deg", rate="30 rpm")
    stage = m.Stage(moves=(m.Move(driver="d", to="371 deg"),), count=60)
    return document.model_copy(update={"program": m.Program(drivers=(driver,), stages=(stage,))})


@pytest.mark.parametrize(
    ("second", "apart", "sizes", "kind"),
    [
        ("wheel", 60.0, {"teeth": "40"}, "gears"),
        ("wheel", 53.0, {"teeth": "33"}, "gears"),
        ("ring", 40.0, {"teeth": "60"}, "internal_gears"),
    ],
)
def test_wheels_are_turned_into_mesh_and_stay_in_it(
    second: str, apart: float, sizes: dict[str, str], kind: m.CouplingKind
) -> None:
    document = train(second, apart, **sizes)
    assert coupling_kinds(resolve(document), "pinion_axis", "mate_axis")[0] == kind
    draft = couple(document, kind)
    assert draft.words == ()
    after = draft.edit.apply(document)
    assert parse_document(document_text(after).encode(), "x") == after
    evaluation = evaluate(moving(after))
    mobility = evaluation.followed.mobility
    assert mobility.freedoms == 1
    assert [(g.bodies, g.has_frame, g.freedoms) for g in mobility.groups] == [((1, 2), True, 1)]
    resolved = evaluation.resolved
    for poses in evaluation.motion.poses[:: len(evaluation.motion.poses) // 7]:
        one, two = (solid(resolved, poses, body) for body in ("pinion", "mate"))
        assert one.intersection(two).area < 0.02
        assert one.distance(two) < 0.12
    ratio = 20 / float(sizes["teeth"]) * (1 if kind == "internal_gears" else -1)
    turned = evaluation.motion.poses[-1, :, 2] - evaluation.motion.poses[0, :, 2]
    assert turned[2] == pytest.approx(2 * math.pi * ratio, abs=1e-8)
    # The teeth that mesh are no gap to be judged; without their coupling they would be.
    (overlap,) = [f for f in evaluation.verdict.findings if f.id == "built_in.overlap"]
    assert overlap.reason == "nothing could meet"
    assert len(slab_pairs(resolve(document))) == 1


def test_what_does_not_fit_is_told_and_still_couples() -> None:
    document = train(apart=61.0, teeth="40")
    (words,) = couple(document, "gears").words
    assert "61.00 mm apart" in words and "mesh at 60.00 mm" in words
    words = " ".join(couple(train(apart=60.0, teeth="40", module="1.5 mm"), "gears").words)
    assert "Module 2.00 mm does not mesh with 1.50 mm" in words
    words = " ".join(couple(train(apart=30.0, teeth="10"), "gears").words)
    assert "10 teeth are undercut" in words
    resolved = resolve(document)
    with pytest.raises(ValueOutOfRangeError, match="no number of teeth"):
        coupled_with(resolved, resolved.poses, "gears", "pinion_axis", "mate_axis", (2.5, 40.0))


def test_teeth_follow_the_wheels_and_units_and_go_with_their_joints() -> None:
    document = train(teeth="40")
    draft = couple(document, "gears")
    assert (draft.coupling.first_size, draft.coupling.second_size) == ("pinion.teeth", "mate.teeth")
    after = draft.edit.apply(document)
    belt = couple(document, "belt").edit.apply(document)
    assert belt.couplings[0].first_size == "pinion.module*pinion.teeth/2"
    inches = SetUnits("in", "rad").apply(belt)
    assert build.mechanism(inches).coupled[0].terms == build.mechanism(belt).coupled[0].terms
    gone = Remove(Going(joints=frozenset(("mate_axis",)))).apply(after)
    assert gone.couplings == ()
    off = after.couplings[0].model_copy(update={"off": True})
    still = after.model_copy(update={"couplings": (off,)})
    assert evaluate(still).followed.mobility.freedoms == 2
    assert draft.coupling.title in evaluate(still).resolved.off


@pytest.mark.parametrize(
    ("demo", "module"), [("carrier-gears", "1.86 mm"), ("carrier-gears", "2.3 mm"),
                         ("geared-vent", "3.2 mm"), ("geared-vent", "2.7 mm")]
)  # fmt: skip
def test_teeth_stay_in_mesh_when_all_wheels_become_larger(demo: str, module: str) -> None:
    """Bodies are drawn where they were before; what is compared is as if they were drawn anew."""
    document = SetParameter("tooth_module", module).apply(read_document(demo_path(demo)))
    stale = evaluate(document)
    drawn = [
        body.model_copy(update={"pose": m.Pose(x=x, y=y, angle=math.degrees(turn))})
        for body, (x, y, turn) in zip(document.bodies, stale.followed.poses.tolist(), strict=True)
    ]
    anew = evaluate(document.model_copy(update={"bodies": tuple(drawn)}))
    assert np.abs(stale.resolved.poses - anew.resolved.poses).max() > 0.5
    pairs = [[(p.bodies, p.compared.sum()) for p in slab_pairs(e.resolved)] for e in (stale, anew)]
    assert pairs[0] == pairs[1]
    gaps = [next(f.gap for f in e.verdict.findings if f.kind == "overlap") for e in (stale, anew)]
    assert gaps[0] is not None and gaps[1] is not None and gaps[1].most > 0
    assert gaps[0].most == pytest.approx(gaps[1].most, abs=1e-3)


def axled() -> Resolved:
    """A base with an arm that carries two pins; a wheel on the base's axle, two on the pins."""
    base = build.part("base", a=(5.0, 7.0), z=(90.0, 0.0))
    arm = build.part("arm", o=(1.0, 2.0), p=(31.0, 42.0), q=(-12.0, 2.0))
    disc = build.part("disc", c=(3.0, 0.0))
    bodies = [
        build.body("base", 100.0, 50.0, 0.7, fixed=True),
        build.body("arm", 3.0, 3.0, 1.0),
        *(build.body(name, 9.0, 9.0, part="disc") for name in ("sun", "one", "two", "lost")),
    ]
    joints = [
        build.joint("centre", "revolute", "base.a", "sun.c"),
        build.joint("swing", "revolute", "arm.o", "base.a"),
        build.joint("pin1", "revolute", "arm.p", "one.c"),
        build.joint("pin2", "revolute", "two.c", "arm.q"),
    ]
    return resolve(build.document([base, arm, disc], bodies, joints))


def test_axles_are_as_far_apart_as_on_the_body_that_has_both() -> None:
    resolved = axled()
    axles = Axles(resolved)

    def apart(one: str, two: str) -> float:
        return axles.apart(*(m.Side(body=body, place=at) for body, at in
                             (each.split(".") for each in (one, two))))  # fmt: skip

    assert apart("sun.c", "one.c") == pytest.approx(50.0, abs=1e-5)
    assert apart("one.c", "sun.c") == pytest.approx(50.0, abs=1e-5)
    assert apart("two.c", "base.a") == pytest.approx(13.0, abs=1e-5)
    assert apart("one.c", "two.c") == pytest.approx(math.hypot(43, 40), abs=1e-5)
    assert apart("sun.c", "base.z") == pytest.approx(math.hypot(85, 7), abs=1e-5)
    # What no body has both of is as far as it is drawn.
    assert apart("lost.c", "base.a") == pytest.approx(
        math.dist((12.0, 9.0), carried((100.0, 50.0, 0.7), (5.0, 7.0))), abs=1e-9
    )


def test_planets_pushed_into_their_ring_reach_in_by_what_the_arm_is_too_long() -> None:
    """2.1 mm longer, of which 0.5 mm are the play between a tip and the root it runs in."""
    document = read_document(demo_path("carrier-gears"))
    (arm,) = (p.value for p in document.parameters if p.id == "arm")
    evaluation = evaluate(SetParameter("arm", f"({arm}) + 2.1 mm").apply(document))
    found = next(f for f in evaluation.verdict.findings if f.kind == "overlap")
    assert found.gap is not None and found.gap.first_body == 0
    assert -2.1 < found.gap.most < -1.5
