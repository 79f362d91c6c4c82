"""Outlines from DXF and SVG: exact where they are lines and arcs, and safe whatever comes."""

from __future__ import annotations

import math
from pathlib import Path

import ezdxf
import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from anakinema.document import model as m
from anakinema.document.resolve import resolve
from anakinema.drawings.drawing import Drawing
from anakinema.drawings.outline_reader import drawing_from
from anakinema.drawings.outlines import read_drawing
from anakinema.errors import AnakinemaError, FileFormatError
from anakinema.parts.imported import Outlined

LINK_SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="60mm"
 viewBox="0 0 120 60"><g transform="translate(10 30)">
 <path id="rim" d="M 0 -10 H 80 A 10 10 0 0 1 80 10 H 0 A 10 10 0 0 1 0 -10 Z"/>
 <circle cx="0" cy="0" r="4"/><circle cx="80" cy="0" r="4"/></g></svg>"""


def outlined(drawing: Drawing, unit: float = 1.0) -> Outlined:
    return Outlined([(loop.vertices, loop.circle) for loop in drawing.loops], unit)


def write_dxf(path: Path, build) -> Path:  # type: ignore[no-untyped-def]
    document = ezdxf.new("R2010", units=4)
    build(document)
    document.saveas(path)
    return path


def link_entities(document) -> None:  # type: ignore[no-untyped-def]
    """A link of length 80 and width 20 drawn as loose lines and arcs, two holes, an open scrap."""
    space = document.modelspace()
    space.add_line((0, -10), (80, -10))
    space.add_line((80, 10), (0, 10))
    space.add_arc((80, 0), 10, -90, 90)
    space.add_arc((0, 0), 10, 90, 270)
    space.add_circle((0, 0), 4)
    space.add_circle((80, 0), 4)
    space.add_line((200, 0), (210, 5))
    space.add_text("not an outline")


def test_a_link_of_lines_and_arcs_comes_in_exactly(tmp_path: Path) -> None:
    drawing = read_drawing(write_dxf(tmp_path / "link.dxf", link_entities))
    assert (drawing.unit, drawing.open) == (1.0, 1)
    assert drawing.notes == ("1 of kind text left out",)
    found = outlined(drawing)
    part = found.part("plate", "plate", "6 mm", "blue")
    doc = m.Document(parts=(part,), bodies=(m.Body(id="b", part="plate"),))
    solid = resolve(doc).parts["plate"]
    outer = solid.slabs[0].region.edges
    assert sorted(p.id for p in part.places) == ["hole_1", "hole_2", "origin"]
    ring = solid.slabs[0].region.ring
    area = 80 * 20 + math.pi * 100
    assert solid.slabs[0].region.polygon.area == pytest.approx(area - 2 * math.pi * 16, rel=1e-3)
    assert set(outer.radius[ring == 0].round(9)) == {0.0, 10.0}


def test_polylines_with_bulges_blocks_and_units(tmp_path: Path) -> None:
    def build(document) -> None:  # type: ignore[no-untyped-def]
        document.units = 1
        block = document.blocks.new("PLATE")
        block.add_lwpolyline(
            [(0, 0, 0), (2, 0, math.tan(math.pi / 4)), (2, 1, 0), (0, 1, 0)],
            format="xyb",
            close=True,
        )
        document.modelspace().add_blockref("PLATE", (5, 5))
        document.modelspace().add_ellipse((20, 20), (1, 0), 0.5)

    drawing = read_drawing(write_dxf(tmp_path / "plate.dxf", build))
    assert drawing.unit == 25.4
    areas = sorted(loop.area() for loop in drawing.loops)
    assert areas[1] == pytest.approx(2 + math.pi * 0.25 / 2)
    assert areas[0] == pytest.approx(math.pi * 0.5, rel=1e-2)
    found = outlined(drawing, 25.4)
    assert found.region.polygon.area == pytest.approx(areas[1] * 25.4**2, rel=1e-3)
    assert found.notes == ["1 more outlines beside the largest left out"]


def test_svg_shapes_with_transforms_and_millimetres(tmp_path: Path) -> None:
    path = tmp_path / "link.svg"
    path.write_text(LINK_SVG)
    drawing = read_drawing(path)
    found = outlined(drawing)
    assert found.region.polygon.area == pytest.approx(
        1600 + math.pi * 100 - 2 * math.pi * 16, rel=1e-3
    )
    centres = sorted((c[0], c[1]) for c in (loop.circle for loop in drawing.loops) if c)
    assert centres[0] == pytest.approx((10.0, -30.0))
    assert centres[1] == pytest.approx((90.0, -30.0))


def test_self_crossing_and_open_outlines_are_stated(tmp_path: Path) -> None:
    def crossing(document) -> None:  # type: ignore[no-untyped-def]
        bow = [(0, 0), (10, 10), (10, 0), (0, 8)]
        document.modelspace().add_lwpolyline(bow, close=True)
        document.modelspace().add_lwpolyline([(30, 0), (50, 0), (50, 9)], close=True)

    found = outlined(read_drawing(write_dxf(tmp_path / "bow.dxf", crossing)))
    assert any("crosses itself" in note for note in found.notes)
    assert found.region.polygon.area == pytest.approx(90.0)

    def scraps(document) -> None:  # type: ignore[no-untyped-def]
        document.modelspace().add_line((0, 0), (5, 5))

    with pytest.raises(FileFormatError, match="can be taken, only 1 open chain"):
        read_drawing(write_dxf(tmp_path / "open.dxf", scraps))


BOMB = """<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa">
<!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg">&b;</svg>"""


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("bomb.svg", BOMB, "entities"),
        ("cut.svg", LINK_SVG[:200], "not readable SVG"),
        ("page.svg", "<html></html>", "not an SVG"),
        ("empty.dxf", "  ", "empty"),
        ("words.dxf", "this is no drawing", "not a readable DXF|no closed outline"),
        ("binary.dxf", "\\x00\\x01\\x02\\xff" * 40, "not a readable DXF|no closed outline"),
    ],
)
def test_broken_files_give_one_clear_error(
    tmp_path: Path, name: str, content: str, words: str
) -> None:
    path = tmp_path / name
    path.write_text(content)
    with pytest.raises(FileFormatError, match=words) as caught:
        read_drawing(path)
    assert name in caught.value.where
    assert caught.value.remedy


def test_huge_and_deeply_nested_files_are_bounded(tmp_path: Path) -> None:
    huge = tmp_path / "huge.dxf"
    with huge.open("wb") as out:
        out.truncate(120_000_000)
    with pytest.raises(FileFormatError, match="120 MB"):
        read_drawing(huge)

    def nested(document) -> None:  # type: ignore[no-untyped-def]
        document.blocks.new("B0").add_circle((0, 0), 5)
        for k in range(1, 14):
            block = document.blocks.new(f"B{k}")
            block.add_blockref(f"B{k - 1}", (1, 0))
        document.modelspace().add_circle((0, 0), 3)
        document.modelspace().add_blockref("B13", (0, 0))

    drawing = read_drawing(write_dxf(tmp_path / "nested.dxf", nested))
    assert len(drawing.loops) == 1
    assert any("nested too deeply" in note for note in drawing.notes)


@given(st.data())
@hypothesis_settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_mutated_files_open_or_give_one_error(tmp_path: Path, data: st.DataObject) -> None:
    kind = data.draw(st.sampled_from(("svg", "dxf")))
    source = tmp_path / "source.dxf"
    if not source.exists():
        write_dxf(source, link_entities)
    content = bytearray(LINK_SVG.encode() if kind == "svg" else source.read_bytes())
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(content) - 1))
        way = data.draw(st.integers(0, 2))
        if way == 0:
            content[at] = data.draw(st.integers(0, 255))
        elif way == 1:
            del content[at : at + data.draw(st.integers(1, 400))]
        else:
            content[at:at] = content[at : at + data.draw(st.integers(1, 60))]
        if not content:
            content = bytearray(b" ")
    try:
        found = outlined(drawing_from(kind, bytes(content), "file mutated", "mutated"))
    except AnakinemaError as error:
        assert error.remedy
    else:
        assert found.region.polygon.area > 0
