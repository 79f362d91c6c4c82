"""Pictures of the stack against rays through it, its order against every pair, sections against
points, dimensions against one another."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from anakinema.depth.exploding import lifts, stack_of, steps
from anakinema.depth.painters_order import Sight
from anakinema.depth.placed import PlacedSlab, Prism, placed_slabs
from anakinema.document import model as m
from anakinema.edits.sheets import SetSheetDimension, SetSheets
from anakinema.edits.values import SetDimension
from anakinema.findings.evaluate import evaluate
from anakinema.record.listed_parts import parts_list
from anakinema.record.sheets.axonometric import DIM_FACE, DIM_WALL, FACE, SIGHT, WALL, seen
from anakinema.record.sheets.cutting import cut_of, section_sheet
from anakinema.record.sheets.dimensions import STEP, Dimension, settled
from anakinema.record.sheets.paper import Line, Shape, Text
from anakinema.record.sheets.papers import PAPERS, papers_up_to
from anakinema.record.sheets.report_pages import report_sheets
from anakinema.record.sheets.sheet import Drawn
from anakinema.record.sheets.sheet_set import changes_since, issue_of, sheet_set
from tests.conftest import share
from tests.ready import evaluated


def prisms_of(seed: int) -> list[Prism]:
    """Prisms that share no space, some with a hole, in layers on and beside one another."""
    random = np.random.default_rng(seed)
    found: list[Prism] = []
    while len(found) < 9:
        sides = int(random.integers(3, 9))
        angles = np.sort(random.uniform(0, 2 * np.pi, sides))
        if np.ptp(angles) < 2.5:
            continue
        radii = random.uniform(12, 40, sides)
        middle = random.uniform(-50, 50, 2)
        ring = middle + np.stack([radii * np.cos(angles), radii * np.sin(angles)], 1)
        shape = shapely.Polygon(ring).buffer(0)
        if shape.geom_type != "Polygon" or shape.area < 100:
            continue
        hole = shape.buffer(-4)
        if random.random() < 0.5 and hole.geom_type == "Polygon" and not hole.is_empty:
            shape = shape.difference(hole)
        low = float(random.choice([0.0, 5.0, 8.0, 13.0, 20.0]))
        high = low + float(random.choice([3.0, 5.0, 12.0]))
        new = Prism(
            PlacedSlab(len(found), None, shape, low, high), 0.0, bool(random.random() < 0.5)
        )  # type: ignore[arg-type]
        clash = [
            p for p in found
            if p.bottom < high - 1e-9 and low < p.top - 1e-9
            and p.slab.polygon.buffer(0.3).intersects(shape)
        ]  # fmt: skip
        if not clash:
            found.append(new)
    return found


def hit(prisms: list[Prism], sight: Sight, u: float, v: float) -> tuple[str | None, float]:
    """What a ray into the picture at (u, v) meets first: its colour, and how clear the place is of
    edges, mm. The ray is followed in small steps; it shares no code with the drawing."""
    best, where = None, math.inf
    clear = math.inf
    is_above = sight.tilt > 0
    # The ray: all points (depth, z) with depth sin(tilt) + z cos(tilt) = v; nearer is higher, or
    # lower from below.
    for prism in prisms:
        region = prism.slab.polygon

        def at(z: float) -> shapely.Point:
            depth = (v - z * math.cos(sight.tilt)) / math.sin(sight.tilt)
            x = u * math.cos(sight.turn) - depth * math.sin(sight.turn)
            y = u * math.sin(sight.turn) + depth * math.cos(sight.turn)
            return shapely.Point(x, y)

        for z in (prism.bottom, prism.top):
            clear = min(clear, region.boundary.distance(at(z)))
        ends = (prism.top, prism.bottom) if is_above else (prism.bottom, prism.top)
        heights = np.linspace(*ends, 240)
        inside = [region.contains(at(float(z))) for z in heights]
        if any(inside):
            first = inside.index(True)
            away = -float(heights[first]) if is_above else float(heights[first])
            if away < where:
                where = away
                face, wall = (DIM_FACE, DIM_WALL) if prism.faint else (FACE, WALL)
                best = face + "f" if first == 0 else wall
        edge = shapely.LineString([at(prism.top), at(prism.bottom)])
        for ring in (region.exterior, *region.interiors):
            clear = min(clear, *(edge.distance(shapely.Point(c)) for c in ring.coords))
    return best, clear


def painted(marks: list[object], u: float, v: float) -> str | None:
    """The colour of the last filled mark over a place."""
    found = None
    for mark in marks:
        if isinstance(mark, Shape):
            rings = [[line.start, *(e.to for e in line.edges)] for line in mark.rings]
            inside = sum(shapely.Polygon(ring).contains(shapely.Point(u, v)) for ring in rings) % 2
            found = f"{mark.fill}f" if inside else found
        elif isinstance(mark, Line) and mark.fill is not None:
            ring = [mark.start, *(edge.to for edge in mark.edges)]
            if shapely.Polygon(ring).contains(shapely.Point(u, v)):
                found = mark.fill
    return found


@pytest.mark.campaign
@pytest.mark.parametrize("seed", range(share(60, 2)))
def test_what_is_painted_last_is_what_a_ray_meets_first(seed: int) -> None:
    prisms = prisms_of(seed)
    random = np.random.default_rng(100 + seed)
    sight = SIGHT
    if seed % 3:
        # From anywhere else, from below as well.
        tilt = math.radians(random.uniform(15, 75)) * (1 if seed % 3 == 1 else -1)
        sight = Sight(random.uniform(-math.pi, math.pi), tilt)
    marks = seen(prisms, [], 1.0, (0.0, 0.0), sight)
    compared = 0
    for _ in range(90):
        u, v = random.uniform(-90, 90), random.uniform(-60, 80)
        wanted, clear = hit(prisms, sight, u, v)
        if clear > 0.6:
            compared += 1
            assert painted(list(marks), u, v) == wanted, (seed, u, v)
    print(f"pictures, seed {seed}: {compared} places compared")
    assert compared > 30


def test_projection_keeps_upright_lines_upright_and_parallel_ones_parallel() -> None:
    (x1, y1), (x2, y2) = SIGHT.projected(10, 20, 0), SIGHT.projected(10, 20, 30)
    assert x1 == x2 and y2 - y1 == pytest.approx(30 * math.cos(SIGHT.tilt))
    along = [np.subtract(SIGHT.projected(x + 5, y + 7, z), SIGHT.projected(x, y, z))
             for x, y, z in ((0, 0, 0), (40, -3, 9))]  # fmt: skip
    assert along[0] == pytest.approx(along[1])


@pytest.mark.parametrize("name", ["transfer-head", "tray-shuttle", "geared-vent", "side-rods"])
def test_bodies_go_on_after_what_they_lie_over_and_are_pulled_clear_of_it(name: str) -> None:
    evaluation = evaluated(name)
    slabs = placed_slabs(evaluation.resolved, evaluation.motion.poses[0])
    stack = stack_of(slabs)
    order = [each.body for each in stack.order]
    assert sorted(order) == sorted({slab.body for slab in slabs})
    raised = lifts(stack, 10.0)
    done = [body for step in steps(evaluation.resolved, stack) for body in step]
    assert done == order
    for one, other in itertools.permutations(stack.order, 2):
        over = [
            (a, b) for a in one.slabs for b in other.slabs
            if a.bottom >= b.top - 1e-9 and a.polygon.intersection(b.polygon).area > 1e-6
        ]  # fmt: skip
        if over and one.bottom >= other.top - 1e-9:
            assert order.index(one.body) > order.index(other.body)
            gap = one.bottom + raised[one.body] - other.top - raised[other.body]
            assert gap >= 10.0 - 1e-9
    for step in steps(evaluation.resolved, stack):
        assert len({evaluation.document.bodies[body].part for body in step}) == 1


@pytest.mark.parametrize("name", ["transfer-head", "tray-shuttle", "lid-latch", "water-pump"])
def test_the_section_is_filled_where_the_line_is_in_a_part(name: str) -> None:
    evaluation = evaluated(name)
    poses = evaluation.motion.poses[7]
    drawn = Drawn(evaluation, poses, parts_list(evaluation.resolved))
    cut, (leaf,) = cut_of(drawn), section_sheet(drawn)
    assert cut is not None
    # The axes of the pins that the line goes through are where they stand on the sheet.
    boxes = [
        np.array([mark.start, *(edge.to for edge in mark.edges)])
        for mark in leaf.marks
        if isinstance(mark, Line) and mark.fill == "#FFFFFF" and mark.closed
        and len(mark.edges) == 3
    ]  # fmt: skip
    slabs = placed_slabs(evaluation.resolved, poses)
    crossed = 0
    for at in np.linspace(cut.start, cut.end, 400):
        inside = [s for s in slabs if s.polygon.contains(shapely.Point(cut.place(float(at))))]
        crossed += len(inside)
    length = sum(float(np.ptp(box[:, 0])) for box in boxes)
    over, under = map(float, leaf.scale.split(":"))
    whole = (cut.end - cut.start) * over / under
    assert length == pytest.approx(crossed / 400 * whole, rel=0.03)
    tall = max(float(box[:, 1].max()) for box in boxes) - min(float(b[:, 1].min()) for b in boxes)
    assert any(d.key == "section/height" and d.value == pytest.approx(tall * under / over)
               for d in leaf.dimensions)  # fmt: skip


Spans = st.lists(st.tuples(st.floats(0, 200), st.floats(0, 200)), min_size=1, max_size=8)


@given(Spans, Spans)
def test_dimension_lines_never_lie_on_one_another(level: object, upright: object) -> None:
    made = [
        Dimension(f"{flag}/{k}", (low, low), (high, high), -10.0, abs(high - low), flag)
        for flag, spans in ((True, level), (False, upright))
        for k, (low, high) in enumerate(spans)  # type: ignore[arg-type, var-annotated]
    ]
    found = settled(made, [])
    assert [each.key for each in found] == [each.key for each in made]
    for one, other in itertools.combinations(found, 2):
        if one.is_level == other.is_level:
            (a, b), (c, d) = one.span, other.span
            apart = max(a, c) - min(b, d) >= 0 or abs(one.line - other.line) >= STEP - 1e-9
            assert apart, (one, other)


def test_a_dimension_is_moved_hidden_and_added_by_edits_and_follows_the_model() -> None:
    evaluation = evaluated("tray-shuttle")
    document, part = evaluation.source, evaluation.source.parts[1]

    def sizes(doc: m.Document) -> dict[str, Dimension]:
        found = evaluate(doc)
        sheets = sheet_set(found, found.motion.poses[0], ("arrangement", "parts"))
        return {d.key: d for sheet in sheets for d in sheet.leaf.dimensions}

    before = sizes(document)
    key = "arrangement/width"
    moved = SetSheetDimension(m.SheetDimension(key=key, away=12.0)).apply(document)
    assert sizes(moved)[key].line == pytest.approx(before[key].line - 12.0)
    hidden = SetSheetDimension(m.SheetDimension(key=key, hidden=True)).apply(moved)
    assert key not in sizes(hidden) and len(hidden.sheets.dimensions) == 1
    again = SetSheetDimension(m.SheetDimension(key=key)).apply(hidden)
    assert again.sheets == document.sheets
    one, two = (place.id for place in part.places[:2])
    new = m.AddedDimension(part=part.id, first=one, second=two, way="level")
    added = SetSheets("added", (new,)).apply(document)
    places = evaluation.resolved.parts[part.id].places
    wanted = abs(places[one][0] - places[two][0])
    assert sizes(added)[new.key].value == pytest.approx(wanted)
    gone = m.AddedDimension(part=part.id, first=one, second="nowhere")
    assert set(sizes(SetSheets("added", (gone,)).apply(document))) == set(before)


def test_issued_sheets_say_what_changed_since() -> None:
    evaluation = evaluated("tray-shuttle")
    sheets = sheet_set(evaluation, evaluation.motion.poses[0], ("arrangement", "parts", "list"))
    issue = issue_of(sheets, "A", "2026-11-29")
    issued = SetSheets("issued", issue).apply(evaluation.source)
    assert m.Document.model_validate(issued.model_dump(mode="json")).sheets.issued == issue
    assert changes_since(issue, sheets) == {}
    part = next(p for p in evaluation.source.parts if p.id == "rocker")
    length = next(d for d in part.dimensions if d.id == "length")
    later = evaluate(SetDimension("rocker", "length", f"{length.value} + 4 mm").apply(issued))
    now = sheet_set(later, later.motion.poses[0], ("arrangement", "parts", "list"))
    changes = changes_since(issue, now)
    assert "part/rocker" in changes and "arrangement" in changes
    old = next(s for s in sheets if s.leaf.key == "part/rocker").leaf.dimensions
    new = next(s for s in now if s.leaf.key == "part/rocker").leaf.dimensions
    grown = [(a, b) for a, b in zip(old, new, strict=True) if abs(a.value - b.value) > 1e-6]
    assert grown and all(f"{a.words} to {b.words}" in changes["part/rocker"] for a, b in grown)
    assert not any(key.startswith("part/") and key != "part/rocker" for key in changes)
    fewer = changes_since(issue, [s for s in now if s.leaf.key != "part/rocker"])
    assert fewer["part/rocker"] == "no longer there"


@pytest.mark.parametrize("paper", list(PAPERS))
def test_everything_stays_on_the_paper_that_is_chosen(paper: m.PaperName) -> None:
    evaluation = evaluated("transfer-head")
    document = SetSheets("paper", paper).apply(evaluation.source)
    document = SetSheets("projection", "third").apply(document)
    found = evaluate(document)
    for sheet in sheet_set(found, found.motion.poses[0]):
        assert sheet.leaf.paper in papers_up_to(paper)
        points = np.array([
            place
            for mark in sheet.marks if isinstance(mark, Line | Shape)
            for line in (mark.rings if isinstance(mark, Shape) else (mark,))
            for place in (line.start, *(edge.to for edge in line.edges))
        ])  # fmt: skip
        assert (points >= 8.0).all(), sheet.title
        assert (points <= np.array([sheet.width, sheet.height]) - 8.0).all(), sheet.title


def test_first_and_third_angle_put_the_edge_on_opposite_sides() -> None:
    evaluation = evaluated("water-pump")
    sides = {}
    for which in ("first", "third"):
        found = evaluate(SetSheets("projection", which).apply(evaluation.source))
        (_, sheet, *_) = sheet_set(found, found.motion.poses[0], ("parts",))
        by_name = {d.key.rpartition("/")[2]: d for d in sheet.leaf.dimensions}
        sides[which] = by_name["thickness"].first[1] - by_name["height"].second[1]
    assert sides["first"] > 0 > sides["third"]


def test_screws_go_in_after_what_they_hold_and_nuts_after_their_screws() -> None:
    evaluation = evaluated("plug-press")
    stack = stack_of(placed_slabs(evaluation.resolved, evaluation.motion.poses[0]))
    names = [body.id for body in evaluation.document.bodies]
    done = [names[body] for step in steps(evaluation.resolved, stack) for body in step]
    assert sorted(done) == sorted(names)
    for hardware in evaluation.source.hardware:
        screw, *rest = hardware.bodies
        joint = evaluation.source.joint(hardware.joint)
        for side in (joint.first, joint.second):
            assert done.index(side.body) < done.index(screw)
        for nut in (name for name in rest if name.endswith("nut")):
            assert done.index(nut) > done.index(screw)
    main = evaluation.source.hardware[0]
    raised = lifts(stack, 12.0)
    below = names.index(main.bodies[0])
    bed = next(each for each in stack.order if names[each.body] == "bed")
    screw = next(each for each in stack.order if each.body == below)
    assert bed.bottom + raised[bed.body] >= screw.top + raised[below] + 12.0 - 1e-9


def test_trials_stand_on_their_sheet_and_in_the_report() -> None:
    evaluation = evaluated("tray-shuttle")
    trial = m.Trial(
        id="longer", name="Longer rod", when="2026-11-29 20:00",
        numbers=(m.TrialNumber(name="rod", value="210 mm"),),
        results=(m.TrialResult(title="Gap rod to guard post", outcome="pass", value="3.40 mm"),),
        decision="taken", reason="clears the post",
    )  # fmt: skip
    found = evaluate(evaluation.source.model_copy(update={"trials": (trial,)}))
    for sheets in (sheet_set(found, found.motion.poses[0], ("trials",)), report_sheets(found)):
        words = " ".join(
            mark.words for sheet in sheets if sheet.title == "Trials"
            for mark in sheet.marks if isinstance(mark, Text)
        )  # fmt: skip
        for told in ("Longer rod", "taken: clears the post", "rod = 210 mm", "pass: Gap rod"):
            assert told in words
