"""What ties planes: universal joints and bevel wheels against their closed forms, one drag over two
planes, and where a joint first makes bodies of different planes touch."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anakinema.analysis.reach import where_it_touches
from anakinema.document import model as m
from anakinema.document.planes import turned_by
from anakinema.errors import AnakinemaError
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.motion.drag import Drag
from tests.ready import evaluated
from tests.reference.test_rods import ClosedForm, crossed


def two_shafts(
    kind: m.CouplingKind, sizes: tuple[object, object], plane: m.Plane, **part: object
) -> m.Document:
    """A driven shaft on the floor, and one on another plane that is coupled to it."""
    post = m.Part(id="post", places=(m.Place(id="eye"),))
    wheel = m.Part(id="wheel", places=(m.Place(id="eye"),), **part)  # type: ignore[arg-type]

    def side(body: str) -> m.Side:
        return m.Side(body=body, place="eye")

    bodies = (
        m.Body(id="floor", part="post", fixed=True),
        m.Body(id="one", part="wheel"),
        m.Body(id="frame", part="post", fixed=True, plane="other"),
        m.Body(id="two", part="wheel", plane="other"),
    )
    joints = (
        m.Joint(id="in", kind="revolute", first=side("floor"), second=side("one")),
        m.Joint(id="out", kind="revolute", first=side("frame"), second=side("two")),
    )
    coupling = m.Coupling(
        id="tie", kind=kind, first="in", second="out",
        first_size=sizes[0], second_size=sizes[1],  # type: ignore[arg-type]
    )  # fmt: skip
    return m.Document(
        planes=(m.Plane(), plane), parts=(post, wheel), bodies=bodies, joints=joints,
        couplings=(coupling,),
        program=m.Program(
            drivers=(m.Driver(id="in", joint="in", start="0 deg", rate="60 rpm"),),
            stages=(m.Stage(moves=(m.Move(driver="in", to="360 deg"),), count=90),),
        ),
    )  # fmt: skip


@pytest.mark.parametrize("tilt", [12.0, 30.0, -40.0, 150.0, 168.0])
def test_a_universal_joint_between_planes_follows_its_closed_form(tilt: float) -> None:
    """tan β cos δ = tan α; where the second plane faces the first the turn counts backwards."""
    plane = m.Plane(id="other", name="other", x=50.0, z=20.0, tilt=f"{tilt} deg")
    acute = min(abs(tilt), 180.0 - abs(tilt))
    document = two_shafts("angled_shafts", (f"{acute} deg", None), plane)
    motion = evaluate(document).motion
    turn, out = motion.values[:, 0], motion.values[:, 1]
    cosine = math.cos(math.radians(acute))
    sense = 1.0 if abs(tilt) < 90 else -1.0
    wanted = np.unwrap(np.arctan2(np.sin(turn), np.cos(turn) * cosine))
    assert out == pytest.approx(sense * wanted, abs=1e-9)
    rate = cosine / (np.cos(turn) ** 2 * cosine**2 + np.sin(turn) ** 2) * 2 * math.pi
    assert motion.samples.value_first[:, 1] == pytest.approx(sense * rate, abs=1e-7)


def test_shafts_at_another_angle_than_stated_are_refused() -> None:
    plane = m.Plane(id="other", name="other", tilt="25 deg")
    with pytest.raises(AnakinemaError, match=r"stand at 25\.0° to one another, not at 30\.0°"):
        evaluate(two_shafts("angled_shafts", ("30 deg", None), plane))


def bevel(z1: int, z2: int, tilt: float, *, ahead: tuple[float, float] = (1.0, 1.0)) -> m.Document:
    """Bevel wheels whose shafts meet 100 mm above the floor, each on the side asked for."""
    turned = turned_by(0.3, math.radians(tilt), -0.4)
    normal = turned[:, 2]
    meet = np.array([0.0, 0.0, 100.0])
    # Both wheels lie so far from where the shafts meet that their middles are at height 0.
    at = meet - ahead[1] * 60.0 * normal
    plane = m.Plane(
        id="other", name="other", x=float(at[0]), y=float(at[1]), z=float(at[2]),
        turn="0.3 rad", tilt=f"{math.radians(tilt)!r} rad", spin="-0.4 rad",
    )  # fmt: skip
    document = two_shafts("bevel_gears", (z1, z2), plane)
    if ahead[0] < 0:
        low = document.planes[0].model_copy(update={"id": "main"})
        raised = tuple(
            b.model_copy(update={"height": 200.0}) if b.plane == "main" else b
            for b in document.bodies
        )
        document = document.model_copy(
            update={"bodies": raised, "planes": (low, document.planes[1])}
        )
    return document


@given(
    st.integers(8, 60), st.integers(8, 60), st.floats(20, 160),
    st.sampled_from(((1.0, 1.0), (-1.0, 1.0), (1.0, -1.0), (-1.0, -1.0))),
)  # fmt: skip
def test_bevel_wheels_roll_on_one_another(
    z1: int, z2: int, tilt: float, ahead: tuple[float, float]
) -> None:
    """Where pitch cones touch both wheels move alike: velocities w × p, worked out in space."""
    document = bevel(z1, z2, tilt, ahead=ahead)
    motion = evaluate(document).motion
    one, two = np.diff(motion.values[:, 0]), np.diff(motion.values[:, 1])
    n1, n2 = np.array([0.0, 0.0, 1.0]), turned_by(0.3, math.radians(tilt), -0.4)[:, 2]
    # Towards where they touch, each wheel lies on its own side of where the shafts meet.
    s1, s2 = -ahead[0], -ahead[1]
    pitch = z2 * s1 * n1 + z1 * s2 * n2
    w1, w2 = one[0] * np.cross(n1, pitch), two[0] * np.cross(n2, pitch)
    assert w1 == pytest.approx(w2, abs=1e-9)
    assert np.abs(two) == pytest.approx(np.abs(one) * z1 / z2, abs=1e-9)


def test_shafts_that_do_not_meet_or_are_parallel_are_no_bevel_wheels() -> None:
    past = m.Plane(id="other", name="other", x=7.0, tilt="90 deg", y=0.0)
    with pytest.raises(AnakinemaError, match="pass one another"):
        evaluate(two_shafts("bevel_gears", (20, 20), past))
    level = m.Plane(id="other", name="other", x=40.0)
    with pytest.raises(AnakinemaError, match="parallel"):
        evaluate(two_shafts("bevel_gears", (20, 20), level))


def test_a_crank_that_is_dragged_takes_the_rocker_of_another_plane_along() -> None:
    document = crossed()
    evaluation = evaluate(document)
    form, mechanism = ClosedForm(document), evaluation.mechanism
    start = evaluation.motion.poses[0]
    drag = Drag(mechanism, start)
    moved = start
    for turn in np.linspace(0.0, 1.2, 25):
        moved = drag.pull(1, (20.0, 0.0), (20.0 * math.cos(turn), 20.0 * math.sin(turn))).poses
    assert moved[1, 2] == pytest.approx(1.2, abs=1e-4)
    assert moved[3, 2] == pytest.approx(form.angle(float(moved[1, 2]), start[3, 2]), abs=1e-6)


def touched(evaluation: Evaluation, joint: str, side: int):  # type: ignore[no-untyped-def]
    k = [each.id for each in evaluation.document.joints].index(joint)
    poses, values = evaluation.motion.poses[0], evaluation.motion.values[0]
    return where_it_touches(evaluation.mechanism, poses, values, k, side)


def test_where_a_joint_makes_bodies_of_different_planes_touch() -> None:
    """The lid of the seed bin, turned down, comes to lie on the bin's rim; by hand: its lower side
    is 3 mm below the hinge's axis and that 6 mm above the rim, 5 mm behind which it stands."""
    evaluation = evaluated("seed-bin")
    found = touched(evaluation, "hinge", -1)
    assert found is not None
    names = {evaluation.document.bodies[k].id for k in found.bodies}
    assert names == {"lid", "bin"}
    gap = evaluation.gaps.parts(frozenset(found.bodies))
    # From the rim's edge, 8 mm beside and 6 mm below the axis, to the line that touches both rounds
    # of the knuckle: its normal (x, y) has 16 x − y = 6.5 − 3.
    assert gap is not None and gap.least <= 8 * 0.157026 + 6 * 0.987594 - 6.5 <= gap.most + 1e-4
    assert -0.2 < found.value < 0.0
    up = touched(evaluation, "hinge", 1)
    assert up is not None and up.value > math.radians(90)
