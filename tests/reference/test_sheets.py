"""Drawings on paper, measured in the written files by readers that share no code with them."""

from __future__ import annotations

import ctypes
import io
import itertools
import math
import re
from pathlib import Path

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest
from hypothesis import given
from hypothesis import strategies as st
from svgelements import SVG, Arc, Text
from svgelements import Path as SvgPath

from anakinema.document import model as m
from anakinema.edits.parts import SetPart
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.findings.event_wording import event_words
from anakinema.findings.hazards import cautions
from anakinema.findings.wording import value_words
from anakinema.record.listed_parts import parts_list
from anakinema.record.sheets.layout import BALLOON, SCALES, scale_for, scale_words, spread
from anakinema.record.sheets.paper import THIN, Edge, Line, Shape, circle, straight
from anakinema.record.sheets.report_pages import report_sheets
from anakinema.record.sheets.sheet import Leaf, Sheet
from anakinema.record.sheets.sheet_set import sheet_set
from anakinema.record.sheets.writers import curves, pdf, svg
from anakinema.resources import demo_path
from tests.ready import evaluated

MM = 25.4 / 72
LISTED = ("arrangement", "list", "parts")


def page_texts(content: bytes) -> list[str]:
    document = pdfium.PdfDocument(content)
    return [page.get_textpage().get_text_range() for page in document]


def path_boxes(content: bytes, page: int) -> list[tuple[float, float, float, float]]:
    """mm, boxes of the points of all paths, as the file has them."""
    found = []
    sheet = pdfium.PdfDocument(content)[page]
    for entity in sheet.get_objects(filter=[raw.FPDF_PAGEOBJ_PATH]):
        matrix = entity.get_matrix()
        places = []
        for k in range(raw.FPDFPath_CountSegments(entity.raw)):
            x, y = ctypes.c_float(), ctypes.c_float()
            segment = raw.FPDFPath_GetPathSegment(entity.raw, k)
            raw.FPDFPathSegment_GetPoint(segment, x, y)
            places.append(matrix.on_point(x.value, y.value))
        array = np.array(places) * MM
        found.append((*array.min(axis=0), *array.max(axis=0)))
    return found


def test_lines_and_circles_are_as_long_in_the_files_as_on_the_sheet() -> None:
    marks = (
        straight((10.0, 10.0), (1010.0, 10.0), pen=THIN),
        circle(600.0, 620.0, 500.0),
        circle(30.0, 40.0, 4.1),
    )
    sheet = Sheet(Leaf("long", "long", "long", "A1", marks), 1200.0, 1200.0, marks)
    content = pdf([sheet], "long")
    page = pdfium.PdfDocument(content)[0]
    assert [each * MM for each in page.get_size()] == pytest.approx([1200.0, 1200.0], abs=1e-3)
    line, large, small = path_boxes(content, 0)
    assert line[2] - line[0] == pytest.approx(1000.0, abs=0.01)
    assert large[2] - large[0] == pytest.approx(1000.0, abs=0.01)
    assert small[2] - small[0] == pytest.approx(8.2, abs=0.01)
    read = [each for each in SVG.parse(io.StringIO(svg(sheet)), ppi=25.4).elements()
            if isinstance(each, SvgPath)]  # fmt: skip
    assert abs(read[0]).length() == pytest.approx(1000.0, rel=2e-6)
    arcs = [each for each in read[1] if isinstance(each, Arc)]
    assert {round(abs(arc.rx), 3) for arc in arcs} == {500.0}
    assert read[1].length() == pytest.approx(2 * math.pi * 500, rel=2e-6)


@given(st.floats(0.5, 1000.0), st.floats(-6.2, 6.2).filter(lambda s: abs(s) > 0.01))
def test_curves_of_an_arc_keep_to_its_circle(radius: float, sweep: float) -> None:
    end = radius * math.cos(sweep), radius * math.sin(sweep)
    at = (radius, 0.0)
    for x1, y1, x2, y2, x3, y3 in curves((radius, 0.0), Edge(end, (0.0, 0.0), sweep)):
        for t in np.linspace(0, 1, 9):
            weights = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t**2 * (1 - t), t**3
            x = np.dot(weights, (at[0], x1, x2, x3))
            y = np.dot(weights, (at[1], y1, y2, y3))
            assert abs(math.hypot(x, y) - radius) < 1e-6 * radius
        at = (x3, y3)
    assert at == pytest.approx(end, abs=1e-9 * radius)


def test_every_made_part_has_its_sheet_with_its_sizes_to_be_selected() -> None:
    evaluation = evaluated("transfer-head")
    content = pdf(sheet_set(evaluation, evaluation.motion.poses[0], LISTED), "Transfer head")
    texts = page_texts(content)
    rows = parts_list(evaluation.resolved)
    assert len(texts) == 3 + len(rows)
    assert f"2 of {len(texts)}" in texts[1] and "General arrangement" in texts[1]
    for row, text in zip(rows, texts[3:], strict=True):
        assert f"Item {row.item}, {row.title}, {row.quantity} off" in text
        slabs = evaluation.resolved.parts[row.id].slabs
        bounds = np.array([slab.region.contours[0].bounds() for slab in slabs])
        for size in bounds[:, 2:].max(axis=0) - bounds[:, :2].min(axis=0):
            assert f"{size:.2f}".rstrip("0").rstrip(".") in text
    for row in rows:
        assert row.title in texts[2]


def test_the_outline_of_a_part_is_to_the_scale_that_its_sheet_states() -> None:
    evaluation = evaluated("tray-shuttle")
    sheets = sheet_set(evaluation, evaluation.motion.poses[0], ("parts",))
    content = pdf(sheets, "shuttle")
    for page, row in enumerate(parts_list(evaluation.resolved), start=1):
        text = page_texts(content)[page]
        over, under = map(float, re.search(r"(\d+):(\d+)", text).groups())  # type: ignore[union-attr]
        region = evaluation.resolved.parts[row.id].slabs[0].region
        low_x, low_y, high_x, high_y = region.contours[0].bounds()
        wide, tall = (high_x - low_x) * over / under, (high_y - low_y) * over / under
        boxes = [(x2 - x1, y2 - y1) for x1, y1, x2, y2 in path_boxes(content, page)]
        assert any(abs(w - wide) < 0.01 and abs(h - tall) < 0.01 for w, h in boxes), row.title


@pytest.mark.parametrize("name", ["transfer-head", "geared-vent", "tray-indexer", "side-rods"])
def test_item_numbers_stand_apart_within_the_frame_and_point_at_their_parts(name: str) -> None:
    evaluation = evaluated(name)
    sheet = sheet_set(evaluation, evaluation.motion.poses[40], ("arrangement",))[1]
    rounds = [mark for mark in sheet.marks if isinstance(mark, Line) and mark.fill == "#FFFFFF"]
    middles = [(mark.start[0] - BALLOON, mark.start[1]) for mark in rounds]
    assert len(rounds) == len(parts_list(evaluation.resolved))
    for one, other in itertools.combinations(middles, 2):
        assert math.dist(one, other) > 2 * BALLOON
    for x, y in middles:
        assert 20 + BALLOON < x < sheet.width - 10 - BALLOON and 10 < y < sheet.height - 10
    shapes = [mark for mark in sheet.marks if isinstance(mark, Shape)]
    slabs = sum(len(evaluation.resolved.part_of(b).slabs) for b in evaluation.document.bodies)
    assert len(shapes) == slabs


@given(st.lists(st.floats(-50, 150), max_size=9), st.floats(1.0, 12.0))
def test_what_is_spread_keeps_order_distance_and_bounds(wanted: list[float], apart: float) -> None:
    wanted = sorted(wanted)
    places = spread(wanted, apart, 0.0, 100.0)
    assert len(places) == len(wanted)
    for one, other in itertools.pairwise(places):
        assert other - one > apart - 1e-9
    assert all(-1e-9 <= place <= 100 + 1e-9 for place in places)
    roomy = all(b - a >= apart for a, b in itertools.pairwise(wanted))
    if roomy and wanted and wanted[0] >= 0 and wanted[-1] <= 100:
        assert places == pytest.approx(wanted)


@given(st.floats(1.0, 5000.0), st.floats(1.0, 5000.0))
def test_scales_are_usual_ones_and_the_largest_that_fits(wide: float, tall: float) -> None:
    scale = scale_for(wide, tall, (200.0, 150.0))
    assert scale in SCALES and wide * scale <= 200 and tall * scale <= 150
    larger = [each for each in SCALES if each > scale]
    assert all(wide * each > 200 or tall * each > 150 for each in larger)
    assert re.fullmatch(r"1:\d+|\d+:1", scale_words(scale))


def test_odd_names_many_parts_and_no_parts_make_sheets_too(tmp_path: Path) -> None:
    document = read_document(demo_path("tray-shuttle"))
    odd = "=1 <Hebel> & Søn ⌀ 漢字 " + "long " * 40
    document = SetPart(document.parts[1].id, "name", odd).apply(document)
    evaluation = evaluate(document)
    content = pdf(sheet_set(evaluation, evaluation.motion.poses[0]), odd)
    assert "<Hebel> & Søn Ø ??" in "".join(page_texts(content))
    drawn = svg(sheet_set(evaluation, evaluation.motion.poses[0], ("parts",))[2])
    words = [each.text or "" for each in SVG.parse(io.StringIO(drawn)).elements()
             if isinstance(each, Text)]  # fmt: skip
    assert any("<Hebel> & Søn ⌀ 漢字" in each for each in words)
    empty = evaluate(m.Document(name="empty"))
    assert sheet_set(empty, empty.motion.poses[0]) == []
    disc = m.Slab(id="s", top=2.0, outline=m.Circle(shape="circle", radius=3.0))
    many = m.Document(
        name="many",
        parts=tuple(m.Part(id=f"p{k}", slabs=(disc,)) for k in range(300)),
        bodies=tuple(
            m.Body(id=f"b{k}", part=f"p{k}", fixed=True, pose=m.Pose(x=8.0 * k)) for k in range(300)
        ),
    )
    found = evaluate(many)
    sheets = sheet_set(found, found.motion.poses[0])
    listed = [sheet for sheet in sheets if sheet.title == "Parts list"]
    made = [sheet for sheet in sheets if sheet.leaf.key.startswith("part/")]
    assert len(listed) > 5 and len(made) == 300


@pytest.mark.parametrize("thick", [0.01, 200.0, 900.0, 40_000.0, 900_000.0])
@pytest.mark.parametrize("wide", [0.5, 60.0, 30_000.0])
@pytest.mark.parametrize("projection", ["first", "third"])
def test_a_part_of_any_thickness_has_a_sheet(thick: float, wide: float, projection: str) -> None:
    """Its edge may take all the room that the scale of its outline leaves."""
    slab = m.Slab(id="s", top=thick, outline=m.Circle(shape="circle", radius=wide / 2))
    document = m.Document(
        name="thick",
        parts=(m.Part(id="p", slabs=(slab,)),),
        bodies=(m.Body(id="b", part="p", fixed=True),),
        sheets=m.SheetSettings(projection=projection),
    )
    found = evaluate(document)
    sheets = sheet_set(found, found.motion.poses[0], ("parts",))
    (made,) = [sheet for sheet in sheets if sheet.leaf.key.startswith("part/")]
    ratio = re.fullmatch(r"([\d.]+):([\d.]+)", made.leaf.scale)
    assert ratio is not None and min(float(each) for each in ratio.groups()) >= 1.0


@pytest.mark.parametrize("name", ["tray-shuttle", "transfer-head", "lid-latch"])
def test_the_report_says_every_finding_event_and_caution_in_words_to_be_selected(name: str) -> None:
    evaluation = evaluated(name)
    texts = page_texts(pdf(report_sheets(evaluation), name))
    whole = " ".join(" ".join(texts).split())
    assert f"1 of {len(texts)}" in texts[0]
    for finding in evaluation.verdict.findings:
        assert finding.title[:20] in whole and value_words(evaluation, finding) in whole
    for event in evaluation.motion.events:
        assert event_words(evaluation, event).split(",")[0] in whole
    for words in cautions(evaluation):
        assert words.split(";")[0] in whole
    assert "licensed engineer" in whole
    moving = [joint.title for k, joint in enumerate(evaluation.document.joints)
              if np.ptp(evaluation.motion.values[:, k]) > 0]  # fmt: skip
    assert all(title in whole for title in moving)


def test_a_curve_on_paper_goes_through_the_values_of_its_joint() -> None:
    evaluation = evaluated("tray-shuttle")
    page = next(s for s in report_sheets(evaluation) if s.title == "Motion over time")
    curves_drawn = [m for m in page.marks if isinstance(m, Line) and len(m.edges) > 100]
    values = evaluation.motion.values
    moving = [k for k in range(values.shape[1]) if np.ptp(values[:, k]) > 0]
    for line, joint in zip(curves_drawn, moving, strict=True):
        points = np.array([line.start, *(edge.to for edge in line.edges)])
        share = (points[:, 1] - points[:, 1].min()) / np.ptp(points[:, 1])
        true = (values[:, joint] - values[:, joint].min()) / np.ptp(values[:, joint])
        assert np.allclose(share, true, atol=1e-9)
