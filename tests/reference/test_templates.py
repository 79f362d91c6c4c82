"""Templates, card, outlines at a pose and cams as files, measured by readers that did not write
them and against formulas of the handbooks."""

from __future__ import annotations

import csv
import errno
import io
import math
import os
import zipfile
from collections import Counter
from itertools import pairwise
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely
from ezdxf.layouts import Modelspace
from ezdxf.path import make_path
from svgelements import SVG
from svgelements import Path as SvgPath

from anakinema.document import model as m
from anakinema.errors import FileFormatError
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.record.exports import EXPORTS, Export
from anakinema.record.listed_parts import parts_list
from anakinema.record.sheets.paper import Line
from anakinema.record.sheets.sheet import Drawn, Sheet
from anakinema.record.sheets.templates import EDGE, FOOT, RULE, all_templates, card_model, templates
from anakinema.resources import demo_names
from anakinema.session.session import write_export
from tests.ready import evaluated
from tests.reference.test_sheets import page_texts, path_boxes


def drawn(evaluation: Evaluation) -> Drawn:
    return Drawn(evaluation, evaluation.motion.poses[0], parts_list(evaluation.resolved))


def written(evaluation: Evaluation, export_id: str, pose: int = 0) -> bytes:
    export = next(each for each in EXPORTS if each.id == export_id)
    return export.content(evaluation, evaluation.motion.poses[pose])


def space_of(content: bytes) -> Modelspace:
    return ezdxf.read(io.StringIO(content.decode())).modelspace()


def points_of(sheet: Sheet) -> list[np.ndarray]:
    return [
        np.array([mark.start, *(edge.to for edge in mark.edges)])
        for mark in sheet.marks
        if isinstance(mark, Line) and mark.closed and mark.fill is None
    ]


@pytest.mark.parametrize("name", ["tray-shuttle", "transfer-head", "cam-dibber"])
def test_every_tile_together_shows_all_of_each_part_once_at_full_size(name: str) -> None:
    evaluation = evaluated(name)
    sheets = templates(drawn(evaluation))
    for row in parts_list(evaluation.resolved):
        tiles = [s for s in sheets if s.leaf.key.startswith(f"template/{row.id}/")]
        outer = evaluation.resolved.parts[row.id].slabs[0].region.contours[0]
        low_x, low_y, high_x, high_y = outer.bounds()
        seen = 0.0
        for tile in tiles:
            window = shapely.box(EDGE, EDGE + FOOT, tile.width - EDGE, tile.height - EDGE)
            ring = next(
                p for p in points_of(tile)
                if np.allclose(np.ptp(p, axis=0), (high_x - low_x, high_y - low_y), atol=1e-9)
            )  # fmt: skip
            seen += shapely.Polygon(ring).buffer(0).intersection(window).area
        assert seen == pytest.approx(shapely.Polygon(ring).buffer(0).area, rel=1e-9), row.title


def test_the_check_scale_and_outlines_are_true_in_the_files() -> None:
    evaluation = evaluated("transfer-head")
    content = written(evaluation, "templates")
    boxes = path_boxes(content, 0)
    assert any(abs(x2 - x1 - RULE) < 0.01 and abs(y2 - y1) < 0.01 for x1, y1, x2, y2 in boxes)
    assert "measure after printing" in page_texts(content)[0]
    drawing = SVG.parse(io.StringIO(written(evaluation, "laying").decode()), ppi=25.4)
    read = [abs(each).bbox() for each in drawing.elements() if isinstance(each, SvgPath)]
    sizes = [(box[2] - box[0], box[3] - box[1]) for box in read if box is not None]
    for row in parts_list(evaluation.resolved):
        for slab in evaluation.resolved.parts[row.id].slabs:
            low_x, low_y, high_x, high_y = slab.region.contours[0].bounds()
            wanted = high_x - low_x, high_y - low_y
            assert any(np.allclose(size, wanted, atol=0.01) for size in sizes), row.title


@pytest.mark.parametrize("name", ["tray-shuttle", "transfer-head", "geared-vent"])
def test_a_card_model_has_a_piece_for_every_slab_of_every_body_on_the_paper(name: str) -> None:
    evaluation = evaluated(name)
    sheets = card_model(drawn(evaluation))
    over, under = map(float, sheets[0].leaf.scale.split(":"))
    scale = over / under
    assert scale <= 1.0
    wanted: Counter[tuple[float, float]] = Counter()
    for body in evaluation.document.bodies:
        for slab in evaluation.resolved.part_of(body).slabs:
            contours = slab.region.contours
            low_x, low_y, high_x, high_y = contours[0].bounds()
            size = round((high_x - low_x) * scale, 3), round((high_y - low_y) * scale, 3)
            pin = len(contours) == 1 and contours[0].circle is not None and size[0] < 16.0
            wanted[size] += not pin
    found = Counter(
        tuple(np.ptp(ring, axis=0).round(3).tolist()) for s in sheets for ring in points_of(s)
    )
    for size, count in wanted.items():
        assert found[size] >= count, size
    for sheet in sheets:
        rings = [shapely.Polygon(ring) for ring in points_of(sheet)]
        whole = [r for r in rings if not any(o is not r and o.contains(r) for o in rings)]
        for k, one in enumerate(whole):
            assert not any(one.intersects(other) for other in whole[k + 1 :])
            assert one.within(shapely.box(EDGE - 0.1, EDGE, sheet.width, sheet.height - EDGE + 1))
    assert "card model" in page_texts(written(evaluation, "card"))[0]


def test_outlines_as_they_stand_are_where_the_bodies_are() -> None:
    evaluation = evaluated("transfer-head")
    space = space_of(written(evaluation, "stand", 200))
    items = {row.id: row.item for row in parts_list(evaluation.resolved)}
    for k, body in enumerate(evaluation.document.bodies):
        x, y, turn = evaluation.motion.poses[200, k]
        for slab in evaluation.resolved.part_of(body).slabs:
            fine = slab.region.contours[0].polygon(1e-4)
            c, s = math.cos(turn), math.sin(turn)
            wanted = shapely.Polygon(fine @ np.array([[c, s], [-s, c]]) + (x, y))
            layer = f"ITEM_{items[body.part]}"
            polygons = [
                shapely.Polygon([(p.x, p.y) for p in make_path(each).flattening(1e-4)])
                for each in space.query(f'LWPOLYLINE CIRCLE[layer=="{layer}"]')
            ]
            near = [p.symmetric_difference(wanted).area / wanted.area for p in polygons]
            # The reader draws arcs by curves that miss their circles by 3e-4 of the radius.
            assert min(near) < 1e-3, body.id


def test_a_cam_in_numbers_keeps_its_law_and_the_formula_of_its_pressure_angle() -> None:
    """tan phi = (s' - e) / (s + sqrt(r² - e²)) of a sliding roller (any text on cams, from
    memory); derivatives against differences; the profile a roller's radius from its centre."""
    evaluation = evaluated("cam-dibber")
    rows = list(csv.DictReader(io.StringIO(written(evaluation, "cams").decode())))
    assert len(rows) == 360
    lift = np.array([float(row["lift"]) for row in rows])
    first = np.array([float(row["lift_by_rad"]) for row in rows])
    step = math.radians(1.0)
    middle = (np.roll(lift, -1) - np.roll(lift, 1)) / (2 * step)
    assert np.abs(first - middle).max() < 0.01 * np.abs(first).max()
    assert lift.max() == pytest.approx(20.0) and lift.min() == pytest.approx(0.0, abs=1e-9)
    centre = np.array([[float(row[f"centre_{a}_mm"]) for a in "xy"] for row in rows])
    profile = np.array([[float(row[f"profile_{a}_mm"]) for a in "xy"] for row in rows])
    apart = np.hypot(*(centre - profile).T)
    assert np.ptp(apart) < 1e-6
    pitch = float(np.hypot(*centre[0]))
    pressure = np.array([math.radians(float(row["pressure_deg"])) for row in rows])
    assert np.abs(np.tan(pressure)) == pytest.approx(np.abs(first) / (pitch + lift), abs=1e-6)


def test_profiles_of_cams_and_wheels_are_those_of_the_model() -> None:
    evaluation = evaluated("cam-dibber")
    space = space_of(written(evaluation, "profiles"))
    layers = Counter(each.dxf.layer for each in space.query("LWPOLYLINE"))
    assert layers["PROFILE"] >= 1 and layers["PATH"] == 1
    wheels = evaluated("geared-vent")
    teeth = space_of(written(wheels, "profiles"))
    shaped = sum(
        slab.outline.shape.startswith("toothed")
        for row in parts_list(wheels.resolved)
        for slab in wheels.resolved.parts[row.id].source.slabs
    )
    assert len(teeth.query('LWPOLYLINE[layer=="PROFILE"]')) == shaped > 0


def test_what_a_mechanism_has_not_is_said() -> None:
    shuttle = evaluated("tray-shuttle")
    for which in ("cams", "profiles"):
        with pytest.raises(FileFormatError, match="there is no cam"):
            written(shuttle, which)
    empty = evaluate(m.Document(name="empty"))
    for which in ("templates", "laying", "card", "sheets"):
        with pytest.raises(FileFormatError, match="empty"):
            written(empty, which)


@pytest.mark.parametrize("name", demo_names())
def test_every_ready_mechanism_can_be_cut_out(name: str) -> None:
    evaluation = evaluated(name)
    whole = all_templates(drawn(evaluation))
    sizes = [ring for ring in points_of(whole) if len(ring) > 1]
    assert len(sizes) >= len([r for r in parts_list(evaluation.resolved) if r.supply == "made"])
    lows = np.min([ring.min(axis=0) for ring in sizes], axis=0)
    highs = np.max([ring.max(axis=0) for ring in sizes], axis=0)
    assert (lows > 0).all() and (highs < (whole.width, whole.height)).all()


@pytest.mark.parametrize("export", EXPORTS, ids=lambda e: e.name)
def test_a_full_disk_leaves_the_old_file_and_no_half_of_a_new_one(
    export: Export, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    evaluation = evaluated("cam-dibber")
    target = tmp_path / f"old '{export.name}"
    target.write_bytes(b"as it was")

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileFormatError, match="no space left"):
        write_export(export, evaluation, evaluation.motion.poses[0], target)
    assert target.read_bytes() == b"as it was"
    assert [path.name for path in tmp_path.iterdir()] == [target.name]


def pairs_of(content: bytes) -> list[tuple[int, str]]:
    """Codes and values of a DXF file, read by its definition and no library."""
    lines = content.decode().splitlines()
    return [(int(code), value.strip()) for code, value in zip(lines[::2], lines[1::2], strict=True)]


def test_outlines_read_by_the_definition_of_the_format_are_those_of_the_parts() -> None:
    evaluation = evaluated("transfer-head")
    pairs = pairs_of(written(evaluation, "outlines"))
    begins = [k for k, (code, _) in enumerate(pairs) if code == 0]
    entities = [
        dict(pairs[a:b]) | {"all": pairs[a:b]} for a, b in zip(begins, begins[1:], strict=False)
    ]  # type: ignore[dict-item]
    circles = Counter(
        round(float(each[40]), 6) for each in entities
        if each[0] == "CIRCLE" and each[8] in ("HOLE", "OUTLINE")
    )  # fmt: skip
    lengths = []
    for each in entities:
        if each[0] != "LWPOLYLINE" or each[8] not in ("HOLE", "OUTLINE"):
            continue
        assert int(each[70]) & 1, "closed"
        points: list[list[float]] = []
        for code, value in each["all"]:
            if code == 10:
                points.append([float(value), 0.0, 0.0])
            elif code in (20, 42) and points:
                points[-1][1 if code == 20 else 2] = float(value)
        length = 0.0
        for (x, y, bulge), (u, v, _) in zip(points, points[1:] + points[:1], strict=True):
            chord = math.hypot(u - x, v - y)
            angle = 4 * math.atan(abs(bulge))
            length += chord if bulge == 0 else chord / (2 * math.sin(angle / 2)) * angle
        lengths.append(length)
    wanted_circles: Counter[float] = Counter()
    wanted = []
    for row in parts_list(evaluation.resolved):
        for slab in evaluation.resolved.parts[row.id].slabs:
            for contour in slab.region.contours:
                if contour.circle is not None:
                    wanted_circles[round(contour.circle[2], 6)] += 1
                    continue
                chords = np.hypot(*(contour.end - contour.start).T)
                arcs = contour.radius * np.abs(contour.sweep)
                wanted.append(float(np.where(contour.is_arc, arcs, chords).sum()))
    assert circles == wanted_circles
    assert sorted(lengths) == pytest.approx(sorted(wanted), abs=1e-6)


def test_parts_to_print_lie_flat_beside_one_another_with_all_their_volume() -> None:
    evaluation = evaluated("transfer-head")
    content = written(evaluation, "meshes")
    count = int.from_bytes(content[80:84], "little")
    rows = np.frombuffer(
        content[84:], dtype=np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("m", "<u2")])
    )
    assert len(rows) == count
    corners = rows["c"].astype(float)
    volume = float(np.sum(np.linalg.det(corners))) / 6
    made = [row for row in parts_list(evaluation.resolved) if row.supply == "made"]
    wanted = 0.0
    for row in made:
        # Slabs of a part may share space; it is there once.
        slabs = evaluation.resolved.parts[row.id].slabs
        levels = sorted({z for slab in slabs for z in (slab.bottom, slab.top)})
        for low, high in pairwise(levels):
            here = [s.region.polygon for s in slabs if s.bottom < high and s.top > low]
            wanted += shapely.union_all(here).area * (high - low)
    assert volume == pytest.approx(wanted, rel=2e-3)
    assert corners[..., 2].min() == pytest.approx(0.0, abs=1e-5)
    with zipfile.ZipFile(io.BytesIO(written(evaluation, "printing"))) as archive:
        model = archive.read("3D/3dmodel.model").decode()
    assert model.count("<item ") == len(made)
