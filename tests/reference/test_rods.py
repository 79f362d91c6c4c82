"""Ball-ended rods between planes: closed form of crossed shafts, a rigid-body engine, differences,
and what cannot be."""

from __future__ import annotations

import math

import mujoco
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.document.rods_in_space import frames_along
from anakinema.errors import AnakinemaError
from anakinema.files.native import document_text, parse_document
from anakinema.findings.evaluate import evaluate
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import compile_mechanism
from anakinema.mechanism.conditions import Rows, condition
from anakinema.mechanism.frames import frames
from anakinema.mechanism.kernels import Kernel
from anakinema.mechanism.system import System


def crossed(
    crank: float = 20.0,
    rocker: float = 60.0,
    length: float = 150.0,
    *,
    at: tuple[float, float, float] = (120.0, 30.0, 40.0),
    turned: tuple[float, float, float] = (0.0, 90.0, 0.0),
    heights: tuple[float, float] = (4.0, -3.0),
    start: float = 80.0,
    **joint: object,
) -> m.Document:
    """A crank on the floor turns a rocker on another plane by a ball-ended rod."""
    post = m.Part(id="post", places=(m.Place(id="eye"),))

    def arm(name: str, reach: float) -> m.Part:
        return m.Part(id=name, places=(m.Place(id="eye"), m.Place(id="ball", x=reach)))

    def pin(name: str, low: str, high: str) -> m.Joint:
        sides = (m.Side(body=low, place="eye"), m.Side(body=high, place="eye"))
        return m.Joint(id=name, kind="revolute", first=sides[0], second=sides[1])

    rod = m.Joint(
        id="rod", kind="ball_rod", length=length,
        first=m.Side(body="crank", place="ball"), second=m.Side(body="rocker", place="ball"),
        first_height=heights[0], second_height=heights[1], **joint,
    )  # fmt: skip
    plane = m.Plane(
        id="shaft", name="shaft", x=at[0], y=at[1], z=at[2],
        turn=f"{turned[0]} deg", tilt=f"{turned[1]} deg", spin=f"{turned[2]} deg",
    )  # fmt: skip
    return m.Document(
        planes=(m.Plane(), plane),
        parts=(post, arm("crank", crank), arm("rocker", rocker)),
        bodies=(
            m.Body(id="floor", part="post", fixed=True),
            m.Body(id="crank", part="crank"),
            m.Body(id="frame", part="post", fixed=True, plane="shaft"),
            m.Body(id="rocker", part="rocker", plane="shaft", pose=m.Pose(angle=f"{start} deg")),
        ),
        joints=(pin("turn", "floor", "crank"), pin("swing", "frame", "rocker"), rod),
        program=m.Program(
            drivers=(m.Driver(id="turn", joint="turn", start="0 deg", rate="60 rpm"),),
            stages=(m.Stage(moves=(m.Move(driver="turn", to="360 deg"),), count=72),),
        ),
    )  # fmt: skip


def about(axis: str, degrees: float) -> Floats:
    a = math.radians(degrees)
    c, s = math.cos(a), math.sin(a)
    if axis == "x":
        return np.array([[1, 0, 0], [0, c, -s], [0, s, c]])
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]])


class ClosedForm:
    """Crank, rod and rocker on two shafts: the rocker's angle solves A cos + B sin = C."""

    def __init__(self, document: m.Document) -> None:
        plane, rod = document.planes[1], document.joints[2]
        turns = [float(str(each).split()[0]) for each in (plane.turn, plane.tilt, plane.spin)]
        self.turned = about("z", turns[0]) @ about("x", turns[1]) @ about("z", turns[2])
        self.at = np.array([plane.x, plane.y, plane.z], dtype=float)
        self.crank, self.rocker = (float(p.places[1].x) for p in document.parts[1:3])  # type: ignore[arg-type]
        self.low, self.high = float(rod.first_height), float(rod.second_height)  # type: ignore[arg-type]
        self.length = float(rod.length)  # type: ignore[arg-type]

    def parts(self, turn: float) -> tuple[float, float, float, float]:
        """A, B, C, and the angle where A cos + B sin is greatest."""
        ball = np.array([self.crank * math.cos(turn), self.crank * math.sin(turn), self.low])
        away = self.at + self.turned[:, 2] * self.high - ball
        a = 2 * self.rocker * float(away @ self.turned[:, 0])
        b = 2 * self.rocker * float(away @ self.turned[:, 1])
        c = self.length**2 - self.rocker**2 - float(away @ away)
        return a, b, c, math.atan2(b, a)

    def angle(self, turn: float, near: float) -> float:
        a, b, c, middle = self.parts(turn)
        swing = math.acos(c / math.hypot(a, b))
        both = [middle + swing, middle - swing]
        return min(
            (x + 2 * math.pi * round((near - x) / (2 * math.pi)) for x in both),
            key=lambda x: abs(x - near),
        )

    def rates(self, turn: float, angle: float) -> tuple[float, float]:
        """First and second derivative of the angle by the turn, from the equation's own."""
        ball = self.crank * np.array([math.cos(turn), math.sin(turn), 0.0])
        speed = self.crank * np.array([-math.sin(turn), math.cos(turn), 0.0])
        reach = self.turned[:, :2] @ np.array([math.cos(angle), math.sin(angle)]) * self.rocker
        swing = self.turned[:, :2] @ np.array([-math.sin(angle), math.cos(angle)]) * self.rocker
        base = self.at + self.turned[:, 2] * self.high - np.array([0, 0, self.low])
        d = base + reach - ball
        first = float(d @ speed) / float(d @ swing)
        v = swing * first - speed
        # d·(swing φ'' − reach φ'² + ball) + v·v = 0.
        second = -(float(v @ v) - float(d @ reach) * first**2 + float(d @ ball)) / float(d @ swing)
        return first, second


def test_crossed_shafts_against_their_closed_form() -> None:
    for document in (
        crossed(),
        crossed(14.0, 47.0, 131.0, at=(90.0, -40.0, 66.0), turned=(25.0, 70.0, -40.0)),
        crossed(25.0, 80.0, 190.0, at=(-130.0, 35.0, -60.0), turned=(170.0, 115.0, 20.0)),
    ):
        form, motion = ClosedForm(document), evaluate(document).motion
        assert motion.last == 1.0
        near = float(motion.poses[0, 3, 2])
        for k, turn in enumerate(motion.poses[:, 1, 2].tolist()):
            near = form.angle(turn, near)
            assert motion.poses[k, 3, 2] == pytest.approx(near, abs=1e-9)
            first, second = form.rates(turn, near)
            whole = 2 * math.pi
            assert motion.samples.first[k, 3, 2] == pytest.approx(first * whole, abs=1e-7)
            assert motion.samples.second[k, 3, 2] == pytest.approx(second * whole**2, abs=1e-6)


@given(
    st.floats(12, 24), st.floats(55, 80), st.floats(-20, 20), st.floats(55, 125), st.floats(0, 9)
)
def test_random_crossed_shafts_close_and_keep_the_length(
    crank: float, rocker: float, turn: float, tilt: float, height: float
) -> None:
    document = crossed(crank, rocker, 155.0, turned=(turn, tilt, 0.0), heights=(height, -height))
    try:
        motion = evaluate(document).motion
    except AnakinemaError:
        return
    form = ClosedForm(document)
    for pose in motion.poses[::7]:
        a, b, c, _ = form.parts(float(pose[1, 2]))
        left = a * math.cos(pose[3, 2]) + b * math.sin(pose[3, 2])
        assert left == pytest.approx(c, abs=1e-7)


def test_a_rigid_body_engine_closes_the_rod_as_we_do_at_36_poses() -> None:
    """MuJoCo: two hinges whose balls a weld-free distance ties; its own constraint is asked how far
    it is from being kept at our poses."""
    document = crossed()
    form, motion = ClosedForm(document), evaluate(document).motion
    euler = "1.5707963267948966 0 0"
    model = mujoco.MjModel.from_xml_string(f"""
      <mujoco><compiler angle="radian" eulerseq="XYZ"/><option gravity="0 0 0"/><worldbody>
      <body name="crank"><joint name="turn" axis="0 0 1"/><geom size="1"/>
       <site name="low" pos="{form.crank} 0 {form.low}"/></body>
      <body name="frame" pos="120 30 40" euler="{euler}"><geom size="1"/>
       <body name="rocker"><joint name="swing" axis="0 0 1"/><geom size="1"/>
        <site name="high" pos="{form.rocker} 0 {form.high}"/></body></body></worldbody>
      <tendon><spatial name="rod"><site site="low"/><site site="high"/></spatial></tendon>
      </mujoco>""")
    data = mujoco.MjData(model)
    for row in np.linspace(0, len(motion.poses) - 1, 36).round().astype(int):
        data.qpos[:] = motion.poses[row, 1, 2], motion.poses[row, 3, 2]
        data.qvel[:] = motion.samples.first[row, 1, 2], motion.samples.first[row, 3, 2]
        mujoco.mj_forward(model, data)
        assert data.ten_length[0] == pytest.approx(form.length, abs=1e-9)
        assert data.ten_velocity[0] == pytest.approx(0.0, abs=1e-7)


def test_a_rod_within_one_plane_is_a_pin_on_an_arc() -> None:
    """Between parallel planes at one height the rod is a link of a four-bar."""
    document = crossed(turned=(0.0, 0.0, 0.0), at=(120.0, 0.0, 40.0), heights=(40.0, 0.0))
    poses = evaluate(document).motion.poses
    one = 20.0 * np.stack([np.cos(poses[:, 1, 2]), np.sin(poses[:, 1, 2])], axis=1)
    two = 60.0 * np.stack([np.cos(poses[:, 3, 2]), np.sin(poses[:, 3, 2])], axis=1)
    assert np.hypot(*(two + np.array([120.0, 0.0]) - one).T) == pytest.approx(150.0, abs=1e-9)


def test_conditions_of_a_rod_against_differences_and_one_pose_against_many() -> None:
    document = crossed(turned=(25.0, 70.0, -40.0))
    mechanism = compile_mechanism(resolve(document))
    random = np.random.default_rng(2)
    poses = mechanism.resolved.poses + random.normal(size=(6, 4, 3)) * [4.0, 4.0, 0.4]
    rates = random.normal(size=(6, 4, 3)) * [5.0, 5.0, 0.5]
    joint = np.array([2])
    for kernel in (Kernel.ROD, Kernel.LEAN):
        each = condition(kernel)

        def value(at: Floats, each=each) -> Floats:  # type: ignore[no-untyped-def]
            on = Rows(mechanism.table, frames(mechanism.table, at), joint, 7.0)
            return each.residual(on)[..., 0]

        on = Rows(mechanism.table, frames(mechanism.table, poses), joint, 7.0)
        step = 1e-5
        ends = (int(mechanism.table.first[2]), int(mechanism.table.second[2]))
        for slot in range(6):
            push = np.zeros((4, 3))
            push[ends[slot // 3], slot % 3] = step / (7.0 if slot % 3 == 2 else 1.0)
            slope = (value(poses + push) - value(poses - push)) / (2 * step)
            assert each.partials(on)[:, 0, slot] == pytest.approx(slope, abs=1e-7)
        # Along q + v t the second derivative of the value is minus the velocity term.
        t = 1e-3
        bend = (value(poses + t * rates) - 2 * value(poses) + value(poses - t * rates)) / t**2
        assert -each.quadratic(on, rates)[:, 0] == pytest.approx(bend, abs=2e-4)
    system = System(mechanism, (2,), ())
    targets = system.targets(np.array([0.1]), poses[0])
    for pose, rate in zip(poses, rates, strict=True):
        many = system.residual_jacobian(pose[None], targets)
        one = system.residual_jacobian(pose, targets)
        assert one[0] == pytest.approx(many[0][0], abs=1e-10)
        assert one[1] == pytest.approx(many[1][0], abs=1e-10)
        pulled = system.quadratic(pose[None], rate[None])[0]
        assert system.quadratic(pose, rate) == pytest.approx(pulled, abs=1e-9)


def test_its_value_is_how_far_it_leans_and_can_be_limited() -> None:
    document = crossed()
    evaluation = evaluate(document)
    motion, form = evaluation.motion, ClosedForm(document)
    sine = []
    for pose in motion.poses:
        ball = np.array([math.cos(pose[3, 2]), math.sin(pose[3, 2])]) * form.rocker
        high = form.at + form.turned[:, :2] @ ball + form.turned[:, 2] * form.high
        sine.append((high[2] - form.low) / form.length)
    assert motion.values[:, 2] == pytest.approx(np.arcsin(sine), abs=1e-9)


def test_mobility_counts_one_condition() -> None:
    """Two shafts that turn have two freedoms; the rod between them leaves one, which is driven."""
    found = evaluate(crossed()).motion.mobility
    assert (found.freedoms, found.undriven, found.count_by_formula) == (1, (), 1)


@pytest.mark.parametrize(
    ("document", "words"),
    [
        (crossed(length=11.0), "too short for its balls"),
        (crossed(length=30.0), ""),
        (crossed(thickness="0 mm"), "no thickness"),
        (crossed().model_copy(update={"joints": tuple(
            j.model_copy(update={"length": None}) for j in crossed().joints)}), "no length"),
    ],
)  # fmt: skip
def test_what_cannot_be_names_the_place_and_a_way_out(document: m.Document, words: str) -> None:
    with pytest.raises(AnakinemaError) as caught:
        evaluate(document)
    assert caught.value.where and caught.value.remedy
    assert words in caught.value.what


def test_a_rod_to_a_plane_that_moves_is_refused() -> None:
    base = crossed()
    carried = base.planes[1].model_copy(update={"on": "crank"})
    with pytest.raises(AnakinemaError, match="move against one another"):
        evaluate(base.model_copy(update={"planes": (base.planes[0], carried)}))


def test_a_rod_comes_back_from_its_file() -> None:
    document = crossed(limits=m.Limits(least="-20 deg", greatest="60 deg"))
    assert parse_document(document_text(document).encode(), "rod") == document


def test_a_rod_whose_balls_are_in_one_place_still_has_a_frame() -> None:
    """As a document may draw it: it points anywhere, and others point to their second ends."""
    ends = np.array([[0.0, 0.0, 0.0], [0.0, -2.0, 0.0], [3.0, 4.0, 12.0]])
    for end, frame in zip(ends, frames_along(np.zeros((3, 3)), ends), strict=True):
        turn = frame[:, :3]
        assert turn.T @ turn == pytest.approx(np.eye(3), abs=1e-12)
        assert float(np.linalg.det(turn)) == pytest.approx(1.0, abs=1e-12)
        assert turn[:, 0] * np.linalg.norm(end) == pytest.approx(end, abs=1e-12)
