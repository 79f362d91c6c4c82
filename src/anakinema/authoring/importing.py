"""An outline on its way in: read, previewed in a unit and on chosen layers, then made a part."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from anakinema.document import model
from anakinema.drawings.drawing import Drawing
from anakinema.drawings.outlines import read_drawing
from anakinema.edits.base import Edit, fresh_id
from anakinema.edits.structure import Add
from anakinema.geometry.region import Region
from anakinema.parts.imported import Outlined
from anakinema.units import LENGTH, UNITS, UnitSystem

IMPORT_UNITS = ("mm", "cm", "m", "in", "thou")


@dataclass(frozen=True, eq=False)
class Preview:
    """What would come in: the outline with its holes, and what is left out."""

    region: Region
    words: tuple[str, ...]
    outlined: Outlined


def open_drawing(path: Path) -> Drawing:
    """Read a DXF or SVG file; raises `FileFormatError`."""
    return read_drawing(path)


def likely_unit(drawing: Drawing) -> str:
    """The unit that a drawing says it is in, mm if it says none."""
    for name in IMPORT_UNITS:
        if drawing.unit is not None and abs(UNITS[name][0] - drawing.unit) < 1e-9:
            return name
    return "mm"


def preview(drawing: Drawing, unit: str, layer: str | None) -> Preview:
    """The part a drawing would become; raises `GeometryError` if no outline is sound."""
    loops = [loop for loop in drawing.loops if layer is None or loop.layer == layer]
    found = Outlined([(loop.vertices, loop.circle) for loop in loops], UNITS[unit][0])
    low_x, low_y, high_x, high_y = found.region.polygon.bounds
    units = UnitSystem()
    holes = len(found.holes)
    words = [
        f"{units.format(high_x - low_x, LENGTH)} wide, {units.format(high_y - low_y, LENGTH)} high,"
        f" {holes} hole{'s' if holes != 1 else ''}"
    ]
    if drawing.open:
        words.append(f"{drawing.open} open chains left out")
    return Preview(found.region, (*words, *found.notes, *drawing.notes), found)


def imported(document: model.Document, drawing: Drawing, found: Preview, thickness: str) -> Edit:
    """The edit that brings the outline in as a part with one body."""
    part_id = fresh_id(drawing.name, [part.id for part in document.parts])
    taken = {body.id for body in document.bodies} | {use.id for use in document.instances}
    body_id = fresh_id(part_id, taken)
    part = found.outlined.part(part_id, drawing.name, thickness, "steel")
    return Add("Import outline", parts=(part,), bodies=(model.Body(id=body_id, part=part_id),))
