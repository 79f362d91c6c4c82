"""Outlines of parts for the workshop: DXF at 1:1, closed lines and arcs, holes on a layer of
their own."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator

import numpy as np

from anakinema.document.solids import SolidSlab
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Contour
from anakinema.record.listed_parts import parts_list

LAYERS = (("OUTLINE", 7), ("HOLE", 1), ("CENTRE", 3), ("TEXT", 8))
"""Names of layers and their colours."""
APART = 20.0
"""mm between two outlines on the sheet."""
TALL = 5.0
"""mm, of letters."""
SAME = 1e-9
"""mm by which middles of arcs may differ and be one."""


def parts_dxf(evaluation: Evaluation) -> bytes:
    """All parts in use side by side, a slab above the other; the same bytes every time. mm."""
    import ezdxf._options  # slow to import, so not at start

    options = ezdxf._options.options
    before = options.write_fixed_meta_data_for_testing
    # Without it the time of writing stands in the file.
    options.write_fixed_meta_data_for_testing = True
    try:
        return _drawn(evaluation)
    finally:
        options.write_fixed_meta_data_for_testing = before


def _drawn(evaluation: Evaluation) -> bytes:
    from ezdxf import units
    from ezdxf.filemanagement import new

    drawing = new("R2010", setup=True, units=units.MM)
    for name, colour in LAYERS:
        drawing.layers.add(name, color=colour)
    space = drawing.modelspace()
    right = 0.0
    for row in parts_list(evaluation.resolved):
        up, wide = 0.0, 0.0
        for slab in evaluation.resolved.parts[row.id].slabs:
            low_x, low_y, high_x, high_y = slab.region.contours[0].bounds()
            shift = np.array([right - low_x, up - low_y])
            _draw(space, slab, shift)
            words = f"{row.item} {row.title}, {row.quantity} off, {slab.top - slab.bottom:g} mm"
            if row.material:
                words += f", {row.material}"
            up += high_y - low_y + TALL
            text = space.add_text(words, height=TALL, dxfattribs={"layer": "TEXT"})
            text.set_placement((right, up))
            up += TALL + APART
            wide = max(wide, high_x - low_x, 0.7 * TALL * len(words))
        right += wide + APART
    # The library lists its classes in the order of a set, another in every process.
    known = drawing.classes.classes
    drawing.classes.add_required_classes(drawing.dxfversion)
    in_order = sorted(known.items(), key=lambda entry: entry[0])
    known.clear()
    known.update(in_order)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode("utf-8", errors="replace")


def _draw(space, slab: SolidSlab, shift: np.ndarray) -> None:  # type: ignore[no-untyped-def]
    for k, contour in enumerate(slab.region.contours):
        layer = {"layer": "HOLE" if k else "OUTLINE"}
        circle = contour.circle
        if circle is None:
            points = [(x + shift[0], y + shift[1], bulge) for x, y, bulge in bulges(contour)]
            space.add_lwpolyline(points, format="xyb", close=True, dxfattribs=layer)
            continue
        x, y, radius = circle[0] + shift[0], circle[1] + shift[1], circle[2]
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
