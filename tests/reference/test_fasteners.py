"""Tables of fasteners against those of an independent package, row by row, and proposals against
plain arithmetic that shares no code."""

from __future__ import annotations

import csv
import math
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from anakinema.authoring.hardware import InStep, in_step, put_hardware
from anakinema.authoring.holding import screwed
from anakinema.authoring.pin_stacks import Layer, PinStack, pin_stack
from anakinema.authoring.pin_wording import fastening, screw_faults
from anakinema.document import model as m
from anakinema.document.depending import Going
from anakinema.document.resolve import resolve
from anakinema.edits.base import Edit
from anakinema.edits.hardware import RemoveHardware
from anakinema.edits.measured_in import SetUnits
from anakinema.edits.outline import SetSlab
from anakinema.edits.structure import Remove, SetBody
from anakinema.errors import AnakinemaError, ValueOutOfRangeError
from anakinema.files.native import document_text, parse_document, read_document
from anakinema.findings.evaluate import evaluate
from anakinema.findings.finding import Outcome
from anakinema.parts.fasteners import METRIC, RINGS, UNC, Thread
from anakinema.record.listed_parts import parts_list
from anakinema.resources import demo_names, demo_path
from tests.conftest import share

HEADS, LENGTHS, THREADS = METRIC.heads, METRIC.lengths, METRIC.threads
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
    for pin, ours in RINGS.items():
        row = rings[pin]
        assert ours == tuple(float(row[column]) for column in ("s", "d2", "n", "b")), pin


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


def is_special(stack: PinStack, thread: Thread, kind: str) -> bool:
    """Whether a head or nut could go into an end hole, or the last layer has the hole of a core:
    looked at by themselves."""
    ends = stack.layers[0], stack.layers[-1]
    small = min(thread.washer_outside, thread.heads[kind].diameter, thread.nut_flats)  # type: ignore[index]
    cored = any(abs(stack.layers[0].hole - t.tap) <= 0.16 for t in THREADS)
    return cored or any(layer.hole > small for layer in ends)


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
            if ours is not None and is_special(stack, ours.thread, kind):
                continue
            best = None
            for thread in THREADS:
                if thread.close <= small + 1e-9:
                    best = thread
            wanted = None
            # A countersunk head has no washer under it.
            count = min(washers, 1) if kind == "countersunk" else washers
            if best is not None and kind in best.heads and not is_special(stack, best, kind):
                head = best.heads[kind]
                need = grip + count * best.washer_thickness + best.nut_height + best.pitch
                for length in reversed(LENGTHS[kind]):
                    if head.shortest <= length <= head.longest and length >= need - 1e-9:
                        wanted = length
            assert (ours is None) == (wanted is None)
            if ours is not None and wanted is not None and best is not None:
                assert (ours.length, ours.thread.name) == (wanted, best.name)
                through = grip + count * best.washer_thickness + best.nut_height
                assert ours.proud == pytest.approx((wanted - through) / best.pitch)
                assert ours.proud >= 1 - 1e-6
                found += 1
    assert found > 900


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


# Blind threads, sunk heads, inches -------------------------------------------------------------


def test_a_screw_into_a_thread_goes_in_by_its_diameter_and_stays_clear_of_the_bottom() -> None:
    """Two plates of 5 and 6 on a block of 30: M8, 11 + 1.6 (washer) + 8 = 20.6, so 25 long."""
    stack = PinStack(
        (Layer("block", -30, 0, 0.0, 0.0), Layer("a", 0, 5, 8.5, 0.0), Layer("b", 5, 11, 8.5, 0.0))
    )
    found = screwed(stack, "cap", washers=1)
    assert found is not None and found.thread.name == "M8" and found.length == 25
    assert found.washers == (1, 0) and found.seats == (11, 0)
    assert found.engaged == pytest.approx(25 - 11 - 1.6) and found.proud == 0.0
    assert "12.4 mm engaged (1.6 diameters), drill 6.8 mm" in found.words
    thin = replace(stack.layers[0], bottom=-10.0)
    wrong = PinStack((thin, *stack.layers[1:]))
    screw = screwed(wrong, "cap", washers=1)
    assert screw is not None
    assert any("of the last layer" in fault for fault in screw_faults(wrong, screw, str))
    # The hole of an M8 core is a thread that goes through.
    through = PinStack((replace(thin, hole=6.8), *stack.layers[1:]))
    tapped = screwed(through, "cap", washers=1)
    assert tapped is not None and tapped.engaged == pytest.approx(12.4)
    assert screw_faults(through, tapped, str) == []


def test_random_threads_are_those_of_plain_arithmetic() -> None:
    random = np.random.default_rng(11)
    found = 0
    for _ in range(400):
        plain = stacked(random)
        last = Layer("block", plain.layers[0].bottom - 40, plain.layers[0].bottom, 0.0, 0.0)
        stack = PinStack((last, *plain.layers))
        for below in (False, True):
            turned = PinStack(tuple(
                replace(x, bottom=-x.top, top=-x.bottom) for x in reversed(stack.layers)
            )) if below else stack  # fmt: skip
            ours = screwed(turned, "cap", washers=0, below=below)
            small = min(layer.hole for layer in plain.layers)
            best = max((t for t in THREADS if t.close <= small + 1e-9), key=lambda t: t.diameter,
                       default=None)  # fmt: skip
            if best is None:
                assert ours is None
                continue
            if plain.layers[-1].hole > best.heads["cap"].diameter:
                continue
            grip = plain.layers[-1].top - plain.layers[0].bottom
            head = best.heads["cap"]
            least = max(head.shortest, grip + best.diameter - 1e-9)
            fit = [each for each in LENGTHS["cap"] if least <= each <= head.longest]
            assert (ours is None) == (not fit)
            if ours is not None:
                assert ours.length == fit[0]
                assert ours.engaged == pytest.approx(fit[0] - grip)
                found += 1
    assert found > 300


def test_a_head_in_a_wider_hole_is_sunk_and_one_too_wide_stands_on_it() -> None:
    """M6 cap head 10 wide and 6 high in a hole 11 wide and 7 deep: 1 mm below the face."""
    stack = PinStack(
        (Layer("a", 0, 6, 6.6, 0.0), Layer("b", 6, 12, 6.6, 0.0), Layer("b", 12, 19, 11.0, 0.0))
    )
    found = screwed(stack, "cap", washers=1)
    assert found is not None and found.thread.name == "M6"
    assert found.seats == (12, 0) and found.stands == pytest.approx(-1.0)
    assert found.length == 20 and found.washers == (0, 1)
    wide = screwed(stack, "hexagon", washers=1)
    assert wide is not None and wide.seats == (12, 0)
    narrow = PinStack((*stack.layers[:2], replace(stack.layers[2], hole=9.0)))
    high = screwed(narrow, "cap", washers=1)
    assert high is not None and high.seats == (19, 0) and high.stands == pytest.approx(6.0)


def test_inch_threads_are_those_of_the_package() -> None:
    drills = {
        "#31": 0.120, "#30": 0.1285, "#27": 0.144, "#23": 0.154, "#18": 0.1695, "#13": 0.185,
        "#15": 0.180, "#9": 0.196, "#3": 0.213, "#5": 0.2055, "#2": 0.221, "B": 0.238,
    }  # fmt: skip

    def inches(word: str) -> float:
        return drills[word] if word in drills else float(Fraction(word))

    with (TABLES / "clearance_hole_sizes.csv").open(encoding="utf-8") as file:
        holes = {row["Size"]: row for row in csv.DictReader(file)}
    with (TABLES / "socket_head_cap_parameters.csv").open(encoding="utf-8") as file:
        caps = {
            row["Size"].strip(): {k.strip(): v for k, v in row.items()}
            for row in csv.DictReader(file)
        }
    for thread in UNC.threads:
        size = thread.name.rpartition("-")[0]
        row = holes[size]
        for column, ours in (
            ("Close", thread.close), ("Normal", thread.normal), ("Loose", thread.loose),
        ):  # fmt: skip
            assert ours / 25.4 == pytest.approx(inches(row[column]), abs=2e-4), (size, column)
        cap = caps[thread.name.removesuffix(" UNC")]
        head = thread.heads["cap"]
        assert head.diameter / 25.4 == pytest.approx(
            float(Fraction(cap["asme_b18.3:dk"])), abs=2e-3
        )
        assert head.height / 25.4 == pytest.approx(float(Fraction(cap["asme_b18.3:k"])), abs=2e-3)
        assert thread.tap < thread.diameter < thread.close < thread.normal < thread.loose
        # The core of a thread of 60 degrees is 1.08 pitches less than its diameter (ISO 68-1).
        assert thread.tap == pytest.approx(thread.diameter - 0.95 * thread.pitch, abs=0.25)


def test_stacks_of_a_document_in_inches_get_inch_screws() -> None:
    document = bolted((0, 5, 7.0), (5, 6, 7.0))
    inches = SetUnits("in", "deg").apply(document)
    resolved = resolve(inches)
    stack = pin_stack(resolved, resolved.poses, "j1")
    assert stack is not None
    lines = fastening(resolved, stack).lines
    assert any('1/4-20 UNC x 7/8" ASME B18.3, nut ASME B18.2.2' in line for line in lines), lines


@pytest.mark.parametrize(
    ("plates", "words"),
    [
        (((0, 5, 26.0), (5, 6, 26.0)), "of wall round the hole"),
        (((0, 5, 8.5), (5, 6, 8.4), (11, 6, 8.6)), ""),
    ],
)
def test_thin_walls_are_named(plates: tuple[tuple[float, float, float], ...], words: str) -> None:
    resolved = resolve(bolted(*plates))
    stack = pin_stack(resolved, resolved.poses, "j1")
    assert stack is not None
    faults = fastening(resolved, stack).faults
    assert any(words in fault for fault in faults) if words else faults == ()


@pytest.mark.parametrize(("wide", "rubs"), [(22.0, True), (14.0, False)])
def test_a_bearing_rubs_on_a_plate_but_a_spacer_does_not_and_both_have_play(
    wide: float, rubs: bool
) -> None:
    layers = (
        Layer("a", 0, 5, 8.4, 0.0, piece=0),
        Layer("ring", 5, 11, 8.4, 0.0, ring=wide, piece=1),
        Layer("b", 11.5, 16, 8.4, 0.0, piece=0),
    )
    resolved = resolve(bolted((0, 5, 8.5), (5, 6, 8.4), (11, 6, 8.6)))
    titled = PinStack(tuple(replace(x, body=f"b{k}") for k, x in enumerate(layers)))
    found = fastening(resolved, titled)
    assert any("both rings" in fault for fault in found.faults) == rubs
    assert any(line == "side play of b1: 0.50 mm" for line in found.lines)


# Hardware in the document ---------------------------------------------------------------------


def made(document: m.Document, head: m.HeadKind = "cap", washers: int = 2) -> m.Document:
    resolved = resolve(document)
    return put_hardware(resolved, resolved.poses, "j1", head, washers, below=False).apply(document)


def heights(document: m.Document) -> dict[str, tuple[str, float, float]]:
    """By the last word of its id the part of each body of the set, its lower and upper face."""
    resolved = resolve(document)
    found = {}
    for k, body in enumerate(resolved.document.bodies):
        if body.id in document.hardware[0].bodies:
            slabs = resolved.part_of(body).slabs
            low, high = min(s.bottom for s in slabs), max(s.top for s in slabs)
            at = float(resolved.heights[k])
            found[body.id] = (resolved.part_of(body).source.title, at + low, at + high)
    return found


def test_hardware_is_made_face_to_face_and_follows_the_stack() -> None:
    document = bolted((0, 5, 8.5), (5, 6, 8.4))
    put = made(document)
    assert m.Document.model_validate(put.model_dump(mode="json")) == put
    found = heights(put)
    assert found == {
        "j1_screw": ("M8 x 25 ISO 4762", 11 + 1.6 - 25, 11 + 1.6 + 8),
        "j1_washer": ("M8 washer ISO 7089", 11.0, pytest.approx(12.6)),
        "j1_washer_2": ("M8 washer ISO 7089", pytest.approx(-1.6), 0.0),
        "j1_nut": ("M8 nut ISO 4032", pytest.approx(-1.6 - 6.8), pytest.approx(-1.6)),
    }
    rows = {row.title: row.quantity for row in parts_list(resolve(put))}
    assert rows["M8 washer ISO 7089"] == 2 and rows["M8 nut ISO 4032"] == 1
    thicker = InStep(SetSlab("p1", "s", "top", 13.0)).apply(put)
    grown = heights(thicker)
    assert grown["j1_screw"][0] == "M8 x 30 ISO 4762"
    assert grown["j1_washer"][1] == pytest.approx(18.0)
    assert not any("25" in part.title for part in thicker.parts), "what is not used is gone"
    assert in_step(thicker) == thicker
    evaluation = evaluate(thicker)
    overlap = next(f for f in evaluation.verdict.findings if f.kind == "overlap")
    assert overlap.outcome is not Outcome.FAIL
    bare = RemoveHardware("j1").apply(thicker)
    assert bare.hardware == () and {b.id for b in bare.bodies} == {b.id for b in document.bodies}
    assert {p.id for p in bare.parts} == {p.id for p in document.parts}


@pytest.mark.parametrize("head", list(HEADS))
@pytest.mark.parametrize("below", [False, True])
def test_every_head_on_either_side_fills_its_stack_without_sharing_space(
    head: m.HeadKind, below: bool
) -> None:
    document = bolted((0, 9, 8.5), (9, 8, 8.4), (17, 9, 8.6))
    resolved = resolve(document)
    edit = put_hardware(resolved, resolved.poses, "j1", head, 2, below=below)
    put = edit.apply(document)
    found = heights(put)
    spans = sorted((low, high) for _, low, high in found.values())
    shank = max(spans, key=lambda span: span[1] - span[0])
    assert shank[0] < 0 and shank[1] > 26 - 1e-9 if head != "countersunk" else True
    screw = next(v for k, v in found.items() if k.endswith("screw"))
    nut = next(v for k, v in found.items() if k.endswith("nut"))
    threads = (nut[1] - screw[1]) if not below else (screw[2] - nut[2])
    assert threads + 1e-9 >= 1.25, "at least one thread stands proud"
    if head == "countersunk":
        face = screw[1] if below else screw[2]
        assert face == pytest.approx(0.0 if below else 26.0), "its face is flush"


def test_what_cannot_be_held_is_said_and_what_cannot_follow_stays() -> None:
    wrong = bolted((0, 5, 2.0), (5, 6, 2.0))
    with pytest.raises(ValueOutOfRangeError, match="no usual screw"):
        made(wrong)
    put = made(bolted((0, 5, 8.5), (5, 6, 8.4)))
    resolved = resolve(made(bolted((0, 5, 8.5), (5, 6, 8.4), (11, 6, 8.6))))
    with pytest.raises(ValueOutOfRangeError, match="has hardware already"):
        put_hardware(resolved, resolved.poses, "j2", "cap", 2, below=False)
    stuck = InStep(SetSlab("p1", "s", "top", 400.0)).apply(put)
    assert heights(stuck)["j1_screw"][0] == "M8 x 25 ISO 4762"
    gone = Remove(Going(joints=frozenset({"j1"})), "Delete").apply(put)
    assert gone.hardware == ()
    fewer = Remove(Going(bodies=frozenset({"j1_nut"})), "Delete").apply(put)
    assert fewer.hardware == () and any(b.id == "j1_screw" for b in fewer.bodies)


def on_a_stud(stud: float, *plates: tuple[float, float, float]) -> m.Document:
    """A base with a stud Ø8 up to a height, and plates (bottom, thickness, hole) on it."""
    document = bolted((0, 5, 8.5), *plates)
    base = document.parts[0]
    plate = base.slabs[0].model_copy(update={"holes": ()})
    pin = m.Slab(id="stud", bottom=5.0, top=stud, outline=m.Circle(shape="circle", radius=4.0))
    base = base.model_copy(update={"slabs": (plate, pin)})
    return document.model_copy(update={"parts": (base, *document.parts[1:])})


def test_a_stud_gets_its_retaining_ring_on_the_face_of_what_it_holds() -> None:
    put = made(on_a_stud(20.0, (5, 9, 8.1)))
    assert heights(put) == {
        "j1_ring": ("retaining ring 8 x 0.8 DIN 471", 14.0, pytest.approx(14.8))
    }
    held = next(j for j in put.joints if j.second.body == "j1_ring")
    assert held.first.body == "b0", "it turns with the stud"
    resolved = resolve(put)
    stack = pin_stack(resolved, resolved.poses, "j1")
    assert stack is not None
    assert "held by retaining ring DIN 471 8 x 0.8" in fastening(
        resolved, stack, put.hardware[0]
    ).lines  # fmt: skip
    thicker = InStep(SetSlab("p1", "s", "top", 10.0)).apply(put)
    assert heights(thicker)["j1_ring"][1] == pytest.approx(15.0)
    with pytest.raises(ValueOutOfRangeError, match="0.90 mm too short"):
        made(on_a_stud(14.5, (5, 9, 8.1)))
    overlap = next(f for f in evaluate(put).verdict.findings if f.kind == "overlap")
    assert overlap.outcome is not Outcome.FAIL


def test_what_is_empty_between_layers_gets_a_spacer_of_that_length() -> None:
    document = bolted((0, 5, 8.5), (12.5, 6, 8.4))
    resolved = resolve(document)
    stack = pin_stack(resolved, resolved.poses, "j1")
    assert stack is not None
    assert any("a spacer is missing" in f for f in fastening(resolved, stack).faults)
    put = made(document)
    assert heights(put)["j1_spacer"] == ("spacer 8.4 x 16 x 7.5", 5.0, 12.5)
    after = resolve(put)
    again = pin_stack(after, after.poses, "j1")
    assert again is not None
    assert not any("spacer" in f for f in fastening(after, again, put.hardware[0]).faults)
    closer = InStep(SetBody("b1", "height", 9.0)).apply(put)
    assert heights(closer)["j1_spacer"][0] == "spacer 8.4 x 16 x 4"
    touching = InStep(SetBody("b1", "height", 5.0)).apply(put)
    assert "j1_spacer" not in heights(touching)


@pytest.mark.campaign
def test_hardware_is_steady_whole_and_readable_after_random_edits() -> None:
    """400 chains of 12 edits in `make prove`: what was in step stays so, nothing dangles."""
    chains, edits = share(400, 5), 0
    for seed in range(chains):
        random = np.random.default_rng(seed)
        document = read_document(demo_path(str(random.choice(WITH_HARDWARE))))
        for _ in range(12):
            edit = random_edit(document, random)
            try:
                made_anew = InStep(edit).apply(document)
                resolve(made_anew)
            except AnakinemaError:
                continue
            edits += 1
            assert in_step(made_anew) == made_anew, (seed, edit)
            assert parse_document(document_text(made_anew).encode(), "again") == made_anew
            bodies = {body.id for body in made_anew.bodies}
            assert all(set(each.bodies) <= bodies for each in made_anew.hardware)
            document = made_anew
    print(f"hardware: {edits} edits in {chains} chains")
    assert edits > 5 * chains


WITH_HARDWARE = ("plug-press", "sluice-lever", "chain-take-up")


def random_edit(document: m.Document, random: np.random.Generator) -> Edit:
    """Another thickness, height, unit or hardware, or one body less."""
    kind, bodies = random.random(), document.bodies
    if kind < 0.5:
        parts = [part for part in document.parts if part.slabs and part.supply == "made"]
        part = parts[int(random.integers(len(parts)))]
        slab = part.slabs[int(random.integers(len(part.slabs)))]
        side = str(random.choice(["top", "bottom"]))
        return SetSlab(part.id, slab.id, side, f"{random.uniform(-30, 60):.2f} mm")
    body = bodies[int(random.integers(len(bodies)))]
    if kind < 0.65:
        return SetBody(body.id, "height", f"{random.uniform(-20, 60):.1f} mm")
    if kind < 0.8:
        resolved = resolve(document)
        joint = document.joints[int(random.integers(len(document.joints)))]
        head, count = str(random.choice(list(HEADS))), int(random.integers(3))
        below = bool(random.random() < 0.5)
        try:
            return put_hardware(resolved, resolved.poses, joint.id, head, count, below=below)  # type: ignore[arg-type]
        except ValueOutOfRangeError:
            return SetUnits("cm", "deg")
    if kind < 0.9:
        return Remove(Going(bodies=frozenset({body.id})), "Delete")
    return SetUnits(str(random.choice(["mm", "in", "cm"])), "deg")
