"""Tables of fasteners against those of an independent package, row by row, and proposals against
plain arithmetic that shares no code."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import numpy as np
import pytest

from anakinema.authoring.pin_stacks import Layer, PinStack, fastening, pin_stack, screwed
from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.files.native import read_document
from anakinema.parts.fasteners import HEADS, LENGTHS, RINGS, THREADS, Thread
from anakinema.resources import demo_names, demo_path

TABLES = Path(__file__).parents[1] / "data" / "hardware"
KNURLED = {"M2": 0.18, "M2.5": 0.18, "M3": 0.18, "M4": 0.22, "M5": 0.22, "M6": 0.22, "M8": 0.27,
           "M10": 0.27, "M12": 0.27, "M16": 0.33}  # fmt: skip
"""mm that the package's knurled heads of ISO 4762 are greater than the plain ones here."""
THICKER = {"M2": 0.05, "M2.5": 0.05, "M3": 0.05, "M4": 0.1, "M5": 0.1, "M6": 0.2, "M8": 0.2,
           "M10": 0.2, "M12": 0.2, "M16": 0.3}  # fmt: skip
"""mm that the package's greatest thickness of ISO 7089 is more than the nominal one here."""
OTHERWISE = {("M12", "Normal"), ("M12", "Loose"), ("M16", "Normal"), ("M16", "Loose")}
"""Clearance holes that ISO 273 has half a millimetre smaller (M12 13.5 and 14.5, M16 17.5 and 18.5,
as two memories agree) and the package as whole numbers."""


def table(name: str) -> dict[str, dict[str, str]]:
    """Rows of a table by size without its pitch."""
    with (TABLES / f"{name}.csv").open(encoding="utf-8") as file:
        rows = [{k.strip(): v.strip() for k, v in row.items()} for row in csv.DictReader(file)]
    found: dict[str, dict[str, str]] = {}
    for row in rows:
        size, _, pitch = row["Size"].partition("-")
        coarse = next((t for t in THREADS if t.name == size), None)
        if not pitch or (coarse is not None and float(pitch) == coarse.pitch):
            found[size] = row
    return found


@pytest.mark.parametrize("thread", THREADS, ids=lambda t: t.name)
def test_every_row_of_every_table_is_that_of_the_package(thread: Thread) -> None:
    holes = table("clearance_hole_sizes")[thread.name]
    for column, ours in (
        ("Close", thread.close),
        ("Normal", thread.normal),
        ("Loose", thread.loose),
    ):
        theirs = float(holes[column])
        less = 0.5 if (thread.name, column) in OTHERWISE else 0.0
        assert ours == pytest.approx(theirs - less), column
    nut = table("hex_nut_parameters")[thread.name]
    assert (thread.nut_height, thread.nut_flats) == (
        float(nut["iso4032:m"]), float(nut["iso4032:s"]),
    )  # fmt: skip
    washer = table("plain_washer_parameters")[thread.name]
    assert thread.washer_hole == float(washer["iso7089:d1"])
    assert thread.washer_outside == float(washer["iso7089:d2"])
    assert thread.washer_thickness == pytest.approx(
        float(washer["iso7089:h"]) - THICKER[thread.name]
    )
    for kind, name, across in (
        ("cap", "socket_head_cap_parameters", "iso4762:dk"),
        ("hexagon", "hex_head_parameters", "iso4014:s"),
        ("button", "button_head_parameters", "iso7380_1:dk"),
        ("countersunk", "countersunk_head_parameters", "iso10642:dk"),
    ):
        head = thread.heads.get(kind)  # type: ignore[call-overload]
        row = table(name).get(thread.name, {})
        standard = across.partition(":")[0]
        if head is None:
            assert not row.get(across)
            continue
        greater = KNURLED[thread.name] if kind == "cap" else 0.0
        assert head.diameter == pytest.approx(float(row[across]) - greater), kind
        # The package has the greatest height of the small hexagon heads.
        slack = 0.21 if kind == "hexagon" else 1e-9
        assert head.height == pytest.approx(float(row[f"{standard}:k"]), abs=slack), kind
        assert head.shortest <= float(row[f"{standard}:short"]) + 1e-9, kind
        assert head.longest == float(row[f"{standard}:long"]), kind


def test_lengths_and_rings_are_those_of_the_package() -> None:
    with (TABLES / "nominal_screw_lengths.csv").open(encoding="utf-8") as file:
        lengths = {r["Screw_Type"]: [float(x) for x in r["Nominal_Sizes"].split(",")]
                   for r in csv.DictReader(file)}  # fmt: skip
    for kind, name in (("cap", "iso4762"), ("hexagon", "iso4014"), ("button", "iso7380_1"),
                       ("countersunk", "iso10642")):  # fmt: skip
        longest = max(head.longest for t in THREADS if (head := t.heads.get(kind)))  # type: ignore[call-overload]
        shortest = LENGTHS[kind][0]  # type: ignore[index]
        theirs = [each for each in lengths[name] if shortest <= each <= longest]
        assert list(LENGTHS[kind]) == theirs, kind  # type: ignore[index]
    with (TABLES / "din471.csv").open(encoding="utf-8") as file:
        rings = {float(row["d1"]): row for row in csv.DictReader(file)}
    for pin, (thick, groove, beyond) in RINGS.items():
        row = rings[pin]
        assert (thick, groove, beyond) == (float(row["s"]), float(row["d2"]), float(row["n"])), pin


def test_a_table_is_sound_in_itself() -> None:
    """Relations that hold between columns (common practice, no source)."""
    for thread in THREADS:
        assert thread.diameter < thread.close < thread.normal < thread.loose
        assert thread.washer_hole == thread.close
        assert 0.75 * thread.diameter < thread.nut_height < 0.95 * thread.diameter
        assert thread.heads["cap"].height == thread.diameter
        assert thread.heads["hexagon"].diameter == thread.nut_flats


def stacked(random: np.random.Generator) -> PinStack:
    """Plates with holes, one on the other."""
    height, layers = float(random.uniform(-20, 20)), []
    for k in range(int(random.integers(1, 6))):
        thick = float(np.round(random.uniform(1, 15), 2))
        layers.append(
            Layer(f"b{k}", height, height + thick, float(np.round(random.uniform(2.3, 19), 1)), 0.0)
        )
        height += thick
    return PinStack(tuple(layers))


def test_lengths_for_a_thousand_random_stacks_are_those_of_plain_arithmetic() -> None:
    random = np.random.default_rng(3)
    found = 0
    for _ in range(1000):
        stack = stacked(random)
        washers = int(random.integers(0, 3))
        grip = sum(layer.top - layer.bottom for layer in stack.layers)
        small = min(layer.hole for layer in stack.layers)
        for kind in HEADS:
            ours = screwed(stack, kind, washers=washers)
            best = None
            for thread in THREADS:
                if thread.close <= small + 1e-9:
                    best = thread
            wanted = None
            if best is not None and kind in best.heads:
                head = best.heads[kind]
                need = grip + washers * best.washer_thickness + best.nut_height + best.pitch
                for length in reversed(LENGTHS[kind]):
                    if head.shortest <= length <= head.longest and length >= need - 1e-9:
                        wanted = length
            assert (ours is None) == (wanted is None)
            if ours is not None and wanted is not None and best is not None:
                assert (ours.length, ours.thread.name) == (wanted, best.name)
                through = grip + washers * best.washer_thickness + best.nut_height
                assert ours.proud == pytest.approx((wanted - through) / best.pitch)
                assert ours.proud >= 1 - 1e-6
                found += 1
    assert found > 1000


def test_the_example_of_two_plates_with_two_washers() -> None:
    """Grip 7, M5: 7 + 2 + 4.7 + 0.8 (one thread proud) = 14.5: the next usual length is 16."""
    stack = PinStack((Layer("a", 0, 3, 5.5, 0.0), Layer("b", 3, 7, 5.4, 0.0)))
    found = screwed(stack, "cap")
    assert found is not None and found.thread.name == "M5" and found.length == 16
    assert found.proud == pytest.approx((16 - 13.7) / 0.8)
    assert found.words == "M5 x 16 ISO 4762, nut ISO 4032, 2 washers ISO 7089: 2.9 threads proud"


def bolted(*plates: tuple[float, float, float]) -> m.Document:
    """Plates (bottom, thickness, hole) on one axis, the first fixed, the others pinned to it."""
    parts, bodies, joints = [], [], []
    for k, (bottom, thick, hole) in enumerate(plates):
        slab = m.Slab(
            id="s",
            top=thick,
            outline=m.Rectangle(shape="rectangle", x=20.0, width=80.0, height=30.0),
            holes=(m.Hole(id="h", outline=m.Circle(shape="circle", radius=hole / 2)),),
        )
        parts.append(m.Part(id=f"p{k}", places=(m.Place(id="at"),), slabs=(slab,)))
        bodies.append(m.Body(id=f"b{k}", part=f"p{k}", height=bottom, fixed=k == 0))
        if k:
            one, other = m.Side(body="b0", place="at"), m.Side(body=f"b{k}", place="at")
            joints.append(m.Joint(id=f"j{k}", kind="revolute", first=one, second=other))
    return m.Document(parts=tuple(parts), bodies=tuple(bodies), joints=tuple(joints))


def test_a_bolted_stack_is_read_from_the_layers_and_faults_are_named() -> None:
    resolved = resolve(bolted((0, 5, 8.5), (5, 6, 8.4), (11, 6, 8.6)))
    stack = pin_stack(resolved, resolved.poses, "j1")
    assert stack is not None and stack.grip == pytest.approx(17.0)
    found = fastening(resolved, stack)
    assert found.faults == () and any("M8 x 30 ISO 4762" in line for line in found.lines)
    for plates, words in (
        (((0, 5, 8.5), (7, 6, 8.4)), "a spacer is missing"),
        (((0, 5, 8.5), (3, 6, 8.4)), "share 2.00 mm of height"),
        (((0, 5, 2.0), (5, 6, 2.0)), "no usual screw"),
    ):
        wrong = resolve(bolted(*plates))
        stack = pin_stack(wrong, wrong.poses, "j1")
        assert stack is not None
        assert any(words in fault for fault in fastening(wrong, stack).faults), words


@pytest.mark.parametrize("name", demo_names())
def test_every_pin_of_every_ready_mechanism_has_a_stack_with_its_own_bodies(name: str) -> None:
    resolved = resolve(read_document(demo_path(name)))
    for joint in resolved.document.joints:
        stack = pin_stack(resolved, resolved.poses, joint.id)
        assert (stack is None) == (joint.kind not in PINS)
        if stack is not None and joint.kind == "revolute":
            assert {layer.body for layer in stack.layers} & {joint.first.body, joint.second.body}
            assert all(math.isfinite(layer.top) and layer.thickness > 0 for layer in stack.layers)
            found = fastening(resolved, stack)
            assert len(found.lines) >= len(stack.layers)


PINS = {"revolute", "pin_in_slot", "pin_on_arc", "pin_on_curve"}
