"""The parts list: what a mechanism is made of, how many of each, and what it weighs."""

from __future__ import annotations

import csv
import io
import itertools
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.document import model
from anakinema.document.flatten import JOINT
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidPart
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.geometry.moments import area_and_centre
from anakinema.geometry.poses import transform
from anakinema.units import LENGTH

PER_MM3 = 1e-9
"""m³ in a mm³."""
HEADER = (
    "item",
    "name",
    "quantity",
    "supply",
    "material",
    "thickness_mm",
    "mass_each_kg",
    "mass_all_kg",
    "note",
)


@dataclass(frozen=True, slots=True)
class Row:
    """A line of the list: a part, or (``is_subassembly``) a subassembly in one piece.

    id : of the part or subassembly; item : its number. thickness mm, from its lowest face to its
    highest, of a rod (``is_rod``) its own. mass kg of one, None where a material is not stated.
    """

    id: str
    item: int
    title: str
    quantity: int
    supply: str
    material: str
    thickness: float
    mass: float | None
    note: str
    is_subassembly: bool = False
    is_rod: bool = False

    @property
    def mass_of_all(self) -> float | None:
        """kg of all of them."""
        return None if self.mass is None else self.quantity * self.mass


def parts_list(resolved: Resolved, *, expanded: bool = True) -> tuple[Row, ...]:
    """One line for each part that is in use, by item number.

    Not ``expanded``, what comes with an instance of a subassembly is one line for all of its kind.
    What is switched off is left out. An item number that is stated stays with its part; the others
    get the free ones in the order of the document.
    """
    bodies = resolved.document.bodies
    loose = [body for body in bodies if expanded or JOINT not in body.id]
    counts = Counter(body.part for body in loose)
    source, rows = resolved.source, []
    numbers = item_numbers(source.parts)
    for part in source.parts:
        if not counts[part.id]:
            continue
        solid = resolved.parts[part.id]
        rows.append(
            Row(
                part.id,
                numbers[part.id],
                part.title,
                counts[part.id],
                part.supply,
                part.material.name if part.material else "",
                thickness_of(solid),
                mass_of(solid),
                part.note,
            )
        )
    if not expanded:
        rows += _subassemblies(resolved, max([0, *numbers.values()]))
    return tuple(sorted(rows, key=lambda row: row.item))


def whole_list(resolved: Resolved, *, expanded: bool = True) -> tuple[Row, ...]:
    """The parts list, and behind it what is no part of its own: ball-ended rods."""
    rows = parts_list(resolved, expanded=expanded)
    return (*rows, *_rods(resolved, max((row.item for row in rows), default=0)))


def _subassemblies(resolved: Resolved, last: int) -> list[Row]:
    source = resolved.source
    present = {body.id.partition(JOINT)[0] for body in resolved.document.bodies if JOINT in body.id}
    instances = [each for each in source.instances if each.id in present]
    counts, rows = Counter(each.subassembly for each in instances), []
    for subassembly in source.subassemblies:
        if not counts[subassembly.id]:
            continue
        one = next(each for each in instances if each.subassembly == subassembly.id)
        inner = [
            (resolved.part_of(body), float(height))
            for body, height in zip(resolved.document.bodies, resolved.heights, strict=True)
            if body.id.startswith(f"{one.id}{JOINT}")
        ]
        masses = [mass_of(solid) for solid, _ in inner]
        spans = [_span(solid, height) for solid, height in inner]
        last += 1
        rows.append(
            Row(
                subassembly.id,
                last,
                subassembly.title,
                counts[subassembly.id],
                "made",
                "",
                max(high for _, high in spans) - min(low for low, _ in spans),
                None if None in masses else sum(mass or 0.0 for mass in masses),
                subassembly.note,
                True,
            )
        )
    return rows


def _rods(resolved: Resolved, last: int) -> list[Row]:
    """One line for all ball-ended rods of one length and thickness."""
    counts = Counter(
        (values.rod.length, values.rod.radius)
        for values in resolved.joints
        if values.rod is not None
    )
    rows = []
    for (length, radius), quantity in counts.items():
        words = resolved.units.format(length, LENGTH)
        last += 1
        title = f"ball-ended rod, {words} between balls"
        rows.append(
            Row(
                f"rod{last}", last, title, quantity, "bought", "", 2 * radius, None, "", is_rod=True
            )
        )
    return rows


def item_numbers(parts: Sequence[model.Part]) -> dict[str, int]:
    """The item number of each part by id: what is stated, then the free ones in order. A number
    that is stated twice counts for the first."""
    numbers: dict[str, int] = {}
    for part in parts:
        if part.item_number is not None and part.item_number not in numbers.values():
            numbers[part.id] = part.item_number
    stated = set(numbers.values())
    free = (number for number in itertools.count(1) if number not in stated)
    return {part.id: numbers.get(part.id) or next(free) for part in parts}


def _span(solid: SolidPart, height: float) -> tuple[float, float]:
    if not solid.slabs:
        return height, height
    low, high = min(s.bottom for s in solid.slabs), max(s.top for s in solid.slabs)
    return height + low, height + high


def thickness_of(solid: SolidPart) -> float:
    """mm from the lowest face to the highest."""
    low, high = _span(solid, 0.0)
    return high - low


def mass_of(solid: SolidPart) -> float | None:
    """kg, the sum of its slabs; None where no material is stated."""
    material = solid.source.material
    return None if material is None else volume_of(solid) * PER_MM3 * material.density


def volume_of(solid: SolidPart) -> float:
    """mm³, the sum of its slabs."""
    return sum(area_and_centre(s.region)[0] * (s.top - s.bottom) for s in solid.slabs)


def centre_of_mass(resolved: Resolved, poses: Floats) -> Floats | None:
    """(N, 2) mm, the centre of all that moves and has a material, at poses (N, B, 3); None if
    nothing has, or if it lies on several planes."""
    if not resolved.planes.is_one:
        return None
    total, moments = 0.0, np.zeros((len(poses), 2))
    for k, body in enumerate(resolved.document.bodies):
        solid = resolved.part_of(body)
        mass = None if body.fixed else mass_of(solid)
        if not mass:
            continue
        density = mass / volume_of(solid)
        for slab in solid.slabs:
            area, centre = area_and_centre(slab.region)
            weight = density * area * (slab.top - slab.bottom)
            moments += weight * transform(centre[None], poses[:, k])[:, 0]
            total += weight
    return moments / total if total else None


def total_mass(rows: Sequence[Row]) -> tuple[float, tuple[str, ...]]:
    """kg of all lines that have a mass, and the titles of those that have none."""
    known = [row.mass_of_all for row in rows]
    missing = tuple(row.title for row, mass in zip(rows, known, strict=True) if mass is None)
    return sum(mass for mass in known if mass is not None), missing


def cells(row: Row) -> tuple[object, ...]:
    """What stands in the columns of `HEADER`; None for nothing."""
    rounded = [None if m is None else round(m, 9) for m in (row.mass, row.mass_of_all)]
    return (
        row.item,
        row.title,
        row.quantity,
        row.supply,
        row.material or None,
        round(row.thickness, 9),
        *rounded,
        row.note or None,
    )


def parts_csv(evaluation: Evaluation) -> str:
    """The list, all subassemblies expanded, as CSV."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADER)
    for row in whole_list(evaluation.resolved):
        writer.writerow(["" if cell is None else cell for cell in cells(row)])
    return out.getvalue()
