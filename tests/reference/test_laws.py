"""Laws of motion against their tabled factors, their own derivatives, and a driven mechanism.

Places, peak velocities and accelerations: R, recomputed from the acceleration laws; M, recalled
from memory, R. L. Norton's cam table (2.000/4.888, 1.760/5.528, 1.875/5.777, 2.188/7.526; the
last two are tabled a little high, 10/sqrt(3) and 84 sqrt(5)/25 are exact).
"""

from __future__ import annotations

import csv
import io
import math

import numpy as np
import pytest

from anakinema.document import model as m
from anakinema.errors import ValueOutOfRangeError
from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.geometry.laws import rise, time_of
from anakinema.record.table import motion_csv
from anakinema.resources import demo_path
from anakinema.session.playback import Playback

PI = math.pi
FACTORS: dict[m.MotionLaw, tuple[tuple[float, float, float], float, float]] = {
    "parabolic": ((0.02, 0.125, 0.5), 2, 4),
    "harmonic": ((0.0244717419, 0.146446609, 0.5), PI / 2, PI**2 / 2),
    "cycloidal": ((0.00645107162, 0.0908450569, 0.5), 2, 2 * PI),
    "modified_trapezoid": ((0.00945906406, 0.104480194, 0.5), 2, 8 * PI / (PI + 2)),
    "modified_sine": ((0.0106972128, 0.117178485, 0.5), 4 * PI / (PI + 4), 4 * PI**2 / (PI + 4)),
    "polynomial_345": ((0.00856, 0.103515625, 0.5), 15 / 8, 10 / math.sqrt(3)),
    "polynomial_4567": ((0.002728, 0.0705566406, 0.5), 35 / 16, 84 * math.sqrt(5) / 25),
}
CONTINUOUS: tuple[m.MotionLaw, ...] = tuple(law for law in FACTORS if law != "parabolic")


@pytest.mark.parametrize("law", FACTORS)
def test_places_and_peaks(law: m.MotionLaw) -> None:
    places, speed, acceleration = FACTORS[law]
    s, _, _ = rise(law, np.array([0.1, 0.25, 0.5]))
    assert s == pytest.approx(places, abs=1e-9)
    _, v, a = rise(law, np.linspace(0, 1, 200_001))
    assert v.max() == pytest.approx(speed, abs=1e-7)
    assert np.abs(a).max() == pytest.approx(acceleration, abs=1e-7)


@pytest.mark.parametrize("law", FACTORS)
def test_speed_and_acceleration_are_the_derivatives_and_time_the_inverse(law: m.MotionLaw) -> None:
    x, h = np.linspace(0.003, 0.997, 1236), 1e-5
    low, here, high = (rise(law, x + d) for d in (-h, 0.0, h))
    assert (high[0] - low[0]) / (2 * h) == pytest.approx(here[1], abs=1e-6)
    if law in CONTINUOUS:
        assert (high[1] - low[1]) / (2 * h) == pytest.approx(here[2], abs=2e-3)
    assert time_of(law, here[0]) == pytest.approx(x, abs=1e-9)
    assert rise(law, np.array([0.0, 1.0]))[0] == pytest.approx([0, 1], abs=1e-15)
    assert time_of(law, np.array([0.0, 0.5, 1.0])) == pytest.approx([0, 0.5, 1], abs=1e-12)


def pump(**stage: object) -> m.Document:
    """The water pump with its one stage paced otherwise."""
    document = read_document(demo_path("water-pump"))
    program = document.program
    paced = tuple(s.model_copy(update=stage) for s in program.stages)
    return document.model_copy(update={"program": program.model_copy(update={"stages": paced})})


def columns(evaluation: Evaluation) -> dict[str, np.ndarray]:
    rows = list(csv.reader(io.StringIO(motion_csv(evaluation))))
    table = np.array([[float(v) if v else math.nan for v in row] for row in rows[1:]])
    return {name: table[:, k] for k, name in enumerate(rows[0])}


@pytest.mark.parametrize("law", [*CONTINUOUS, "constant"])
def test_a_driven_crank_follows_its_law_in_time(law: m.MotionLaw) -> None:
    evaluation = evaluate(pump(law=law, lasts="2 s"))
    found = columns(evaluation)
    time = found["time_s"]
    assert time[[0, -1]] == pytest.approx([0, 2])
    s, v, a = rise(law, time / 2)
    assert found["main_bearing_deg"] == pytest.approx(60 + 360 * s, abs=1e-6)
    assert found["main_bearing_velocity_deg_per_s"] == pytest.approx(180 * v, abs=1e-5)
    inside = slice(1, -1)
    assert found["main_bearing_acceleration_deg_per_s2"][inside] == pytest.approx(
        90 * a[inside], abs=2e-3
    )
    # The plunger's rates against differences of its place, at times close together.
    at, h = np.linspace(0.2, 1.8, 9), 2e-4
    motion = evaluation.motion
    places = [
        motion.at(np.array([motion.timing.progress_at(t + d) for t in at])).values[:, 3]
        for d in (-h, 0.0, h)
    ]
    speed = np.interp(at, time, found["cylinder_velocity_mm_per_s"])
    assert (places[2] - places[0]) / (2 * h) == pytest.approx(speed, abs=1.0, rel=1e-2)
    rate, change = motion.progress_rates(np.array([motion.timing.progress_at(t) for t in at]))
    states = motion.at(np.array([motion.timing.progress_at(t) for t in at]))
    acceleration = states.value_second[:, 3] * rate**2 + states.value_first[:, 3] * change
    difference = (places[2] - 2 * places[1] + places[0]) / h**2
    assert difference == pytest.approx(acceleration, abs=0.5, rel=1e-3)


def test_pauses_hold_still_and_count() -> None:
    document = pump(law="cycloidal", lasts="2 s", pause="0.5 s")
    program = document.program.model_copy(update={"there_and_back": True})
    evaluation = evaluate(document.model_copy(update={"program": program}))
    playback = Playback(evaluation)
    # There 2 s, rest 0.5 s, back 2 s: before the first stage nothing rests.
    assert playback.duration == pytest.approx(4.5)
    assert playback.progress_at(1.0) == pytest.approx(0.5)
    assert [playback.progress_at(t) for t in (2.0, 2.2, 2.5)] == [1.0, 1.0, 1.0]
    assert playback.progress_at(3.5) == pytest.approx(1.5)
    assert playback.time_at(1.5) == pytest.approx(3.5)
    assert playback.progress_at(9.0) == playback.last == 2.0


@pytest.mark.parametrize(
    ("stage", "stated"),
    [
        ({"lasts": "0 s"}, "it lasts no time"),
        ({"pause": -1.0}, "its pause is below zero"),
        ({"lasts": "3 mm"}, "time"),
    ],
)
def test_impossible_times_name_their_stage(stage: dict[str, object], stated: str) -> None:
    with pytest.raises(ValueOutOfRangeError if "mm" not in str(stage) else Exception) as error:
        evaluate(pump(**stage))
    assert stated in str(error.value)
    assert "stage 1" in str(error.value)
