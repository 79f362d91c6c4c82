"""Outlines for the workshop as DXF at 1:1: parts side by side, all of it at a pose, profiles of
cams and toothed wheels; closed lines and arcs, holes on a layer of their own."""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np

from anakinema.document.solids import SolidSlab
from anakinema.errors import FileFormatError
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Contour, Floats
from anakinema.geometry.curve import Curve
from anakinema.geometry.fitting import as_arcs
from anakinema.record.listed_parts import parts_list

LAYERS = (("OUTLINE", 7), ("HOLE", 1), ("CENTRE", 3), ("TEXT", 8), ("PROFILE", 7), ("PATH", 5))
"""Names of layers and their colours."""
APART = 20.0
"""mm between two outlines on the sheet."""
TALL = 5.0
"""mm, of letters."""
PROFILED = frozenset(
    {"toothed_wheel", "toothed_rack", "ratchet_wheel", "geneva_wheel", "locking_disc", "sprocket"}
)
"""Outlines whose shape is their work."""
EXACT = 1e-4
"""mm by which arcs may stray from the profile of a cam."""
SAME = 1e-9
"""mm by which middles of arcs may differ and be one."""


def parts_dxf(evaluation: Evaluation) -> bytes:
    """All parts in use side by side, a slab above the other; the same bytes every time. mm."""
    return _written(lambda space: _beside(space, evaluation))


def assembly_dxf(evaluation: Evaluation, poses: Floats) -> bytes:
    """All bodies as they stand at poses (B, 3), those of each item on layers of their own."""
    resolved = evaluation.resolved
    items = {row.id: row.item for row in parts_list(resolved)}

    def draw(space: Any) -> None:
        for k, body in enumerate(resolved.document.bodies):
            if resolved.planes.of[k]:
                # A drawing is flat: that of the first plane.
                continue
            name = f"ITEM_{items[body.part]}"
            for slab in resolved.part_of(body).slabs:
                _draw(space, slab, poses[k], (name, f"{name}_HOLE"))

    return _written(draw)


def profiles_dxf(evaluation: Evaluation) -> bytes:
    """Profiles of cams with the ways of their followers' centres, and outlines of toothed wheels;
    raises `FileFormatError` if there are none."""
    resolved = evaluation.resolved
    found: list[tuple[str, list[SolidSlab], dict[str, Curve]]] = []
    for row in parts_list(resolved):
        solid = resolved.parts[row.id]
        cams = {name for cam in solid.source.cams for name in (cam.id, f"{cam.id}_path")}
        curves = {name: curve for name, curve in solid.curves.items() if name in cams}
        shaped = {s.id for s in solid.source.slabs if s.outline.shape in PROFILED}
        slabs = [slab for slab in solid.slabs if slab.id in shaped]
        if curves or slabs:
            found.append((f"{row.item} {row.title}", slabs, curves))
    if not found:
        raise FileFormatError(
            "there is no cam and no toothed wheel in it.",
            where=f"mechanism '{evaluation.document.name}'",
            remedy="The outlines of all parts are in parts.dxf.",
        )

    def draw(space: Any) -> None:
        right = 0.0
        for words, slabs, curves in found:
            rings = [np.array(as_arcs(curve, EXACT)) for curve in curves.values()]
            corners = [ring[:, :2] for ring in rings] + [s.region.contours[0].start for s in slabs]
            low, high = np.vstack(corners).min(axis=0), np.vstack(corners).max(axis=0)
            shift = np.array([right - low[0], -low[1], 0.0])
            for slab in slabs:
                _draw(space, slab, shift, ("PROFILE", "HOLE"))
            for (name, curve), ring in zip(curves.items(), rings, strict=True):
                ring[:, :2] += shift[:2]
                layer = {"layer": "PATH" if name.endswith("_path") else "PROFILE"}
                points = [tuple(row) for row in ring.tolist()]
                space.add_lwpolyline(points, format="xyb", close=curve.is_closed, dxfattribs=layer)
            text = space.add_text(words, height=TALL, dxfattribs={"layer": "TEXT"})
            text.set_placement((right, float(high[1] - low[1]) + TALL))
            right += float(high[0] - low[0]) + APART

    return _written(draw)


def _written(draw: Callable[[Any], None]) -> bytes:
    """A drawing in mm with what is drawn into its space."""
    import ezdxf._options  # slow to import, so not at start

    options = ezdxf._options.options
    before = options.write_fixed_meta_data_for_testing
    # Without it the time of writing stands in the file.
    options.write_fixed_meta_data_for_testing = True
    try:
        return _file(draw)
    finally:
        options.write_fixed_meta_data_for_testing = before


def _file(draw: Callable[[Any], None]) -> bytes:
    from ezdxf import units
    from ezdxf.filemanagement import new

    drawing = new("R2010", setup=True, units=units.MM)
    for name, colour in LAYERS:
        drawing.layers.add(name, color=colour)
    draw(drawing.modelspace())
    # The library lists its classes in the order of a set, another in every process.
    known = drawing.classes.classes
    drawing.classes.add_required_classes(drawing.dxfversion)
    in_order = sorted(known.items(), key=lambda entry: entry[0])
    known.clear()
    known.update(in_order)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode("utf-8", errors="replace")


def _beside(space: Any, evaluation: Evaluation) -> None:
    right = 0.0
    for row in parts_list(evaluation.resolved):
        up, wide = 0.0, 0.0
        for slab in evaluation.resolved.parts[row.id].slabs:
            low_x, low_y, high_x, high_y = slab.region.contours[0].bounds()
            _draw(space, slab, np.array([right - low_x, up - low_y, 0.0]), ("OUTLINE", "HOLE"))
            words = f"{row.item} {row.title}, {row.quantity} off, {slab.top - slab.bottom:g} mm"
            if row.material:
                words += f", {row.material}"
            up += high_y - low_y + TALL
            text = space.add_text(words, height=TALL, dxfattribs={"layer": "TEXT"})
            text.set_placement((right, up))
            up += TALL + APART
            wide = max(wide, high_x - low_x, 0.7 * TALL * len(words))
        right += wide + APART


def _draw(space: Any, slab: SolidSlab, pose: Floats, layers: tuple[str, str]) -> None:
    """Outline and holes of a slab at a pose (3,), each on its layer."""
    c, s = math.cos(pose[2]), math.sin(pose[2])

    def at(x: float, y: float) -> tuple[float, float]:
        return c * x - s * y + float(pose[0]), s * x + c * y + float(pose[1])

    for k, contour in enumerate(slab.region.contours):
        layer = {"layer": layers[1] if k else layers[0]}
        circle = contour.circle
        if circle is None:
            points = [(*at(x, y), bulge) for x, y, bulge in bulges(contour)]
            space.add_lwpolyline(points, format="xyb", close=True, dxfattribs=layer)
            continue
        (x, y), radius = at(circle[0], circle[1]), circle[2]
        space.add_circle((x, y), radius, dxfattribs=layer)
        for dx, dy in ((1.3 * radius, 0.0), (0.0, 1.3 * radius)):
            ends = (x - dx, y - dy), (x + dx, y + dy)
            space.add_line(*ends, dxfattribs={"layer": "CENTRE", "linetype": "CENTER"})


def bulges(contour: Contour) -> Iterator[tuple[float, float, float]]:
    """(x, y, bulge) of the vertices: tan of a quarter of the angle of each edge, what was cut at
    quarter turns put together again."""
    k, count = 0, len(contour.radius)
    while k < count:
        sweep, first = float(contour.sweep[k]), k
        while (
            k + 1 < count
            and contour.radius[first] > 0.0
            and contour.piece[k + 1] == contour.piece[first]
            and abs(contour.radius[k + 1] - contour.radius[first]) <= SAME
            and abs(sweep + float(contour.sweep[k + 1])) < 1.5 * math.pi
        ):
            k += 1
            sweep += float(contour.sweep[k])
        yield float(contour.start[first, 0]), float(contour.start[first, 1]), math.tan(sweep / 4)
        k += 1
