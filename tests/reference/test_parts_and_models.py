"""Parts list, outlines and models for the workshop, each read back by a library that did not write
it, and masses against polygons and against what a mesh encloses."""

from __future__ import annotations

import csv
import io
import math
import os
import struct
import subprocess
import sys
import zipfile
from collections import Counter
from pathlib import Path

import ezdxf
import numpy as np
import openpyxl
import pytest
import shapely
from defusedxml import ElementTree
from ezdxf import bbox
from hypothesis import given, settings

from anakinema.document import model as m
from anakinema.document.flatten import JOINT
from anakinema.document.resolve import resolve
from anakinema.edits.parts import SetPart
from anakinema.errors import FileFormatError
from anakinema.files.native import read_document
from anakinema.findings.evaluate import evaluate
from anakinema.geometry.moments import area_and_centre
from anakinema.geometry.region import Region
from anakinema.record.bodies_in_space import assembly_3mf, assembly_stl, mesh_of
from anakinema.record.exports import EXPORTS
from anakinema.record.listed_parts import (
    centre_of_mass,
    item_numbers,
    parts_csv,
    parts_list,
    total_mass,
    volume_of,
)
from anakinema.record.table import motion_table
from anakinema.resources import demo_names, demo_path
from tests.ready import evaluated
from tests.strategies import contours

NAMES = ("tray-shuttle", "transfer-head", "geared-vent", "cam-dibber")


# Numbers -------------------------------------------------------------------------------------


@settings(deadline=None, max_examples=60)
@given(contours())
def test_area_and_centre_are_those_of_a_fine_polygon(outline) -> None:  # type: ignore[no-untyped-def]
    region = Region.build(outline, (), ())
    area, centre = area_and_centre(region)
    fine = shapely.Polygon(outline.polygon(1e-5))
    size = math.sqrt(fine.area)
    assert area == pytest.approx(fine.area, abs=2e-5 * fine.length + 1e-9)
    assert np.hypot(*(centre - np.array(fine.centroid.coords[0]))) < 1e-4 * size + 1e-4


def test_the_centre_of_a_half_disc_is_where_tables_have_it() -> None:
    """4 r / (3 pi) from its straight edge (any handbook of mechanics, from memory)."""
    path = m.Path(shape="path", vertices=(m.Vertex(x=-30, y=0), m.Vertex(x=30, y=0, bulge=1.0)))
    part = m.Part(id="half", slabs=(m.Slab(id="s", top=2.0, outline=path),))
    document = m.Document(parts=(part,), bodies=(m.Body(id="half", part="half"),))
    area, centre = area_and_centre(resolve(document).parts["half"].slabs[0].region)
    assert area == pytest.approx(math.pi * 30**2 / 2)
    assert centre == pytest.approx([0.0, 4 * 30 / (3 * math.pi)])


@pytest.mark.parametrize("name", demo_names())
def test_quantities_are_the_bodies_and_numbers_are_each_once(name: str) -> None:
    resolved = evaluated(name).resolved
    rows = parts_list(resolved)
    counts = Counter(body.part for body in resolved.document.bodies)
    assert {row.id: row.quantity for row in rows} == dict(counts)
    assert [row.item for row in rows] == sorted({row.item for row in rows})
    folded = parts_list(resolved, expanded=False)
    loose = Counter(b.part for b in resolved.document.bodies if JOINT not in b.id)
    assert {r.id: r.quantity for r in folded if not r.is_subassembly} == dict(loose)
    instances = [each for each in resolved.source.instances if not each.off]
    assert sum(r.quantity for r in folded if r.is_subassembly) == len(instances)


def test_a_stated_number_stays_and_the_others_get_the_free_ones() -> None:
    document = read_document(demo_path("tray-shuttle"))
    ids = [part.id for part in document.parts]
    stated = SetPart(ids[2], "item_number", 1).apply(
        SetPart(ids[0], "item_number", 7).apply(document)
    )
    numbers = item_numbers(stated.parts)
    assert numbers[ids[0]] == 7 and numbers[ids[2]] == 1
    assert [numbers[i] for i in ids if i not in (ids[0], ids[2])] == [
        n for n in range(2, 40) if n != 7
    ][: len(ids) - 2]
    less = stated.model_copy(update={"parts": stated.parts[1:]})
    assert item_numbers(less.parts)[ids[2]] == 1


def test_mass_is_volume_times_density_and_its_centre_moves_with_the_bodies() -> None:
    document = read_document(demo_path("tray-shuttle"))
    moving = [b for b in document.bodies if not b.fixed]
    steel = m.Material(name="steel", density=7850)
    for part in {b.part for b in moving[:2]}:
        document = SetPart(part, "material", steel).apply(document)
    for part in {b.part for b in document.bodies} - {b.part for b in moving[:2]}:
        document = SetPart(part, "material", None).apply(document)
    evaluation = evaluate(document)
    rows = {row.id: row for row in parts_list(evaluation.resolved)}
    mass, missing = total_mass(tuple(rows.values()))
    points, weights = [], []
    poses = evaluation.motion.poses[::90]
    for body in moving[:2]:
        solid = evaluation.resolved.part_of(body)
        k = [b.id for b in evaluation.resolved.document.bodies].index(body.id)
        for slab in solid.slabs:
            polygon = slab.region.polygon
            weight = polygon.area * (slab.top - slab.bottom) * 7850e-9
            c, s = np.cos(poses[:, k, 2]), np.sin(poses[:, k, 2])
            x, y = polygon.centroid.coords[0]
            points.append(
                np.stack([c * x - s * y + poses[:, k, 0], s * x + c * y + poses[:, k, 1]], axis=1)
            )
            weights.append(weight)
    assert mass == pytest.approx(sum(weights), rel=1e-3)
    assert len(missing) == len(rows) - len({b.part for b in moving[:2]})
    centre = centre_of_mass(evaluation.resolved, poses)
    assert centre is not None
    assert np.abs(centre - np.average(points, axis=0, weights=weights)).max() < 0.02


# Files read back -----------------------------------------------------------------------------


@pytest.mark.parametrize("name", NAMES)
def test_outlines_read_back_have_their_layers_areas_and_sizes(name: str, tmp_path: Path) -> None:
    evaluation = evaluated(name)
    export = next(each for each in EXPORTS if each.id == "outlines")
    file = tmp_path / "parts.dxf"
    file.write_bytes(export.content(evaluation, evaluation.motion.poses[0]))
    drawing = ezdxf.readfile(file)
    assert drawing.units == 4 and not drawing.audit().has_errors
    space = drawing.modelspace()
    slabs = [s for row in parts_list(evaluation.resolved)
             for s in evaluation.resolved.parts[row.id].slabs]  # fmt: skip
    closed = [e for e in space if e.dxf.layer in ("OUTLINE", "HOLE") and e.dxftype() != "LINE"]
    assert len(closed) == sum(len(slab.region.contours) for slab in slabs)
    assert all(e.dxftype() == "CIRCLE" or e.closed for e in closed)
    outlines = [e for e in closed if e.dxf.layer == "OUTLINE"]
    for entity, slab in zip(outlines, slabs, strict=True):
        low_x, low_y, high_x, high_y = slab.region.contours[0].bounds()
        box = bbox.extents([entity], fast=False)
        assert box.size.x == pytest.approx(high_x - low_x, abs=0.01)
        assert box.size.y == pytest.approx(high_y - low_y, abs=0.01)
        if entity.dxftype() == "CIRCLE":
            area = math.pi * entity.dxf.radius**2
        else:
            area = bulged_area(entity.get_points("xyb"))
        assert area == pytest.approx(abs(slab.region.contours[0].area()), rel=1e-12)
    titles = {e.dxf.text for e in space.query("TEXT")}
    assert any(str(parts_list(evaluation.resolved)[0].title) in title for title in titles)


def bulged_area(points: list[tuple[float, float, float]]) -> float:
    """Of a closed polyline with bulges: its chords, and a cap over each bulge b = tan(t/4)."""
    area = 0.0
    for (x, y, bulge), (u, v, _) in zip(points, [*points[1:], points[0]], strict=True):
        area += (x * v - u * y) / 2
        if bulge:
            angle = 4 * math.atan(bulge)
            radius = math.hypot(u - x, v - y) / (2 * math.sin(angle / 2))
            area += radius**2 * (angle - math.sin(angle)) / 2
    return abs(area)


def enclosed(corners: np.ndarray) -> float:
    """Volume that triangles (T, 3, 3) enclose: the sum of signed tetrahedra."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6


@pytest.mark.parametrize("name", NAMES)
def test_meshes_are_closed_and_hold_the_flattened_prisms(name: str) -> None:
    resolved = evaluated(name).resolved
    for body in resolved.document.bodies:
        solid = resolved.part_of(body)
        points, triangles = mesh_of(solid)
        edges = Counter((int(t[k]), int(t[(k + 1) % 3])) for t in triangles for k in range(3))
        assert set(edges.values()) == {1} and all((b, a) in edges for a, b in edges)
        prisms = 0.0
        for slab in solid.slabs:
            rings = [shapely.Polygon(c.polygon(0.01)).area for c in slab.region.contours]
            prisms += (rings[0] - sum(rings[1:])) * (slab.top - slab.bottom)
        apart = sorted((s.bottom, s.top) for s in solid.slabs)
        if all(low[1] <= high[0] for low, high in zip(apart, apart[1:], strict=False)):
            assert enclosed(points[triangles]) == pytest.approx(prisms, rel=1e-9)
            assert prisms == pytest.approx(volume_of(solid), rel=5e-3)


def test_stl_and_3mf_stand_where_the_bodies_do() -> None:
    evaluation = evaluated("tray-shuttle")
    resolved, poses = evaluation.resolved, evaluation.motion.poses[100]
    content = assembly_stl(resolved, poses)
    (count,) = struct.unpack_from("<I", content, 80)
    assert len(content) == 84 + 50 * count
    kind = np.dtype([("n", "<f4", 3), ("p", "<f4", (3, 3)), ("more", "<u2")])
    rows = np.frombuffer(content, dtype=kind, offset=84)
    archive = zipfile.ZipFile(io.BytesIO(assembly_3mf(resolved, poses)))
    root = ElementTree.fromstring(archive.read("3D/3dmodel.model").decode())
    ns = {"c": "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"}
    assert root.get("unit") == "millimeter"
    volume = 0.0
    high = []
    objects = {o.get("id"): o for o in root.iterfind(".//c:object", ns)}
    items = root.findall(".//c:item", ns)
    assert len(items) == len(resolved.document.bodies)
    for item in items:
        entity = objects[item.get("objectid")]
        points = np.array(
            [[float(v.get(k)) for k in "xyz"] for v in entity.iter(f"{{{ns['c']}}}vertex")]
        )
        triangles = np.array(
            [
                [int(t.get(k)) for k in ("v1", "v2", "v3")]
                for t in entity.iter(f"{{{ns['c']}}}triangle")
            ]
        )
        matrix = np.array([float(x) for x in item.get("transform").split()]).reshape(4, 3)
        moved = points @ matrix[:3] + matrix[3]
        volume += enclosed(moved[triangles])
        high.append(moved.max(axis=0))
    assert enclosed(rows["p"].astype(float)) == pytest.approx(volume, rel=1e-5)
    assert np.abs(rows["p"].reshape(-1, 3).max(axis=0) - np.max(high, axis=0)).max() < 1e-3
    crank = [b.id for b in resolved.document.bodies].index("crank")
    assert float(items[crank].get("transform").split()[9]) == pytest.approx(poses[crank, 0])


def test_the_spreadsheet_holds_the_motion_the_parts_and_a_chart() -> None:
    evaluation = evaluated("tray-shuttle")
    export = next(each for each in EXPORTS if each.id == "workbook")
    content = export.content(evaluation, evaluation.motion.poses[0])
    book = openpyxl.load_workbook(io.BytesIO(content))
    header, rows = motion_table(evaluation)
    sheet = book["Motion"]
    assert [cell.value for cell in sheet[1]] == header
    for k in (0, 333, len(rows) - 1):
        read = [np.nan if c.value is None else c.value for c in sheet[k + 2]]
        assert np.allclose(read, rows[k], rtol=1e-14, equal_nan=True)
    assert book["Parts"].max_row == len(parts_list(evaluation.resolved)) + 1
    assert len(book["Curves"]._charts) == 1


def test_names_that_look_like_formulas_or_markup_stay_names() -> None:
    document = read_document(demo_path("tray-shuttle"))
    part = document.parts[1].id
    odd = '=1+2 "<Hebel> & Søn" ⌀ 漢字'
    evaluation = evaluate(SetPart(part, "name", odd).apply(document))
    poses = evaluation.motion.poses[0]
    contents = {
        each.id: each.content(evaluation, poses)
        for each in EXPORTS
        if each.id in ("workbook", "model", "outlines")
    }
    book = openpyxl.load_workbook(io.BytesIO(contents["workbook"]))
    cells = [c for row in book["Parts"].iter_rows() for c in row if c.value == odd]
    assert len(cells) == 1 and cells[0].data_type == "s"
    root = ElementTree.fromstring(
        zipfile.ZipFile(io.BytesIO(contents["model"])).read("3D/3dmodel.model").decode()
    )
    assert odd in {each.get("name") for each in root.iter() if each.get("name")}
    drawing = ezdxf.read(io.StringIO(contents["outlines"].decode()))
    assert any(odd in text.dxf.text for text in drawing.modelspace().query("TEXT"))
    listed = [row["name"] for row in csv.DictReader(io.StringIO(parts_csv(evaluation)))]
    assert odd in listed


def test_two_exports_of_one_document_are_the_same_bytes() -> None:
    name = "cam-dibber"
    one, other = evaluated(name), evaluate(read_document(demo_path(name)))
    for export in EXPORTS:
        if export.id == "report":
            # It says when it was made, and how long that took.
            continue
        first = export.content(one, one.motion.poses[0])
        assert first == export.content(other, other.motion.poses[0]), export.id


def test_two_processes_write_the_same_bytes(tmp_path: Path) -> None:
    """Sets of words are in another order in every process; no file may show it."""
    names = [e.name for e in EXPORTS if e.id not in ("report", "cams", "profiles")]
    written = []
    for seed in ("5", "6"):
        folder = tmp_path / seed
        command = [sys.executable, "-m", "anakinema", "export", str(demo_path("water-pump"))]
        subprocess.run(
            [*command, "--what", ",".join(names), "--folder", str(folder)],
            env={**os.environ, "PYTHONHASHSEED": seed},
            check=True,
            capture_output=True,
        )
        written.append({path.name: path.read_bytes() for path in folder.iterdir()})
    assert written[0] == written[1]
    assert len(written[0]) == len(names)


def test_what_has_nothing_solid_says_so() -> None:
    document = m.Document(name="empty")
    evaluation = evaluate(document)
    for export in EXPORTS:
        poses = evaluation.motion.poses[0]
        if export.id in ("parts", "pages", "outlines", "stand", "workbook", "table", "report",
                         "words"):  # fmt: skip
            assert export.content(evaluation, poses)
        else:
            with pytest.raises(FileFormatError, match="empty"):
                export.content(evaluation, poses)
