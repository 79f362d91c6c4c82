"""The parts: a list of all, and a sheet to scale for each that is made."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.document.model import AddedDimension
from anakinema.document.solids import SolidPart
from anakinema.geometry.contour import Contour, Floats
from anakinema.record.listed_parts import Row, mass_of, whole_list
from anakinema.record.sheets.dimensions import Dimension, length_words, settled
from anakinema.record.sheets.layout import HIGH, LEFT, MARGIN, OFF, SCALES, scale_words, shortened
from anakinema.record.sheets.paper import CENTRE, THICK, Mark, Shape, Text, ring, straight
from anakinema.record.sheets.papers import PAPERS, papers_up_to
from anakinema.record.sheets.sheet import Drawn, Leaf
from anakinema.record.sheets.views import Fit, fitted

LINE = 6.0
"""mm, height of a line of the parts table."""
COLUMNS = (("Item", 12.0), ("Off", 12.0), ("Name", 70.0), ("Material", 36.0), ("Thick", 22.0),
           ("Mass", 28.0))  # fmt: skip
LISTED = 66.0
"""mm, width of the words beside a part."""
APART = 18.0
"""mm between the two views of a part."""


def parts_table(drawn: Drawn) -> Iterator[Leaf]:
    """The parts list, as many sheets as it takes."""
    paper = papers_up_to(drawn.settings.paper)[0]
    width, height = PAPERS[paper]
    most = int((height - 2 * MARGIN - HIGH - 20) / LINE)
    rows = whole_list(drawn.evaluation.resolved)
    for first in range(0, len(rows), most):
        some = rows[first : first + most]
        marks: list[Mark] = []
        y = height - MARGIN - 14
        for k, cells in enumerate([tuple(name for name, _ in COLUMNS), *map(_cells, some)]):
            x = LEFT
            for (_, wide), cell in zip(COLUMNS, cells, strict=True):
                words = shortened(cell, 3.0, wide - 3)
                marks.append(Text((x + 2, y + 1.6), words, 3.0, strong=k == 0))
                x += wide
            pen = THICK if k == 0 else CENTRE
            marks.append(straight((LEFT, y), (width - MARGIN, y), pen=pen))
            y -= LINE
        yield Leaf(f"list/{first // most + 1}", "Parts list", "Parts list", paper, tuple(marks))


def _cells(row: Row) -> tuple[str, ...]:
    mass = "" if row.mass is None else f"{row.mass * 1000:.1f} g"
    material = row.material or ("bought" if row.supply == "bought" else "")
    return (
        str(row.item),
        str(row.quantity),
        row.title,
        material,
        length_words(row.thickness),
        mass,
    )


def part_sheets(drawn: Drawn) -> Iterator[Leaf]:
    """Each made part with an outline: from above and from its edge, its sizes, and what is cut out
    of it where."""
    for row in drawn.rows:
        solid = drawn.evaluation.resolved.parts[row.id]
        if row.supply == "made" and solid.slabs:
            yield _part_sheet(drawn, row, solid)


def _part_sheet(drawn: Drawn, row: Row, solid: SolidPart) -> Leaf:
    still = np.zeros(3)
    bounds = np.array([slab.region.contours[0].bounds() for slab in solid.slabs])
    low, high = bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)
    box = float(low[0]), float(low[1]), float(high[0]), float(high[1])
    wide, tall = box[2] - box[0], box[3] - box[1]
    settings, thick = drawn.settings, row.thickness
    first_angle = settings.projection == "first"
    # The edge is seen from below the view from above: in first angle it is drawn above that.
    for paper in papers_up_to(settings.paper):
        # Its room depends on the scale: what the edge takes is found by trying.
        wished = fitted(box, paper, (26, 24, LISTED, 12), 1.0).scale
        for scale in (each for each in SCALES if each <= wished):
            edge = APART + thick * scale
            below = OFF + 12 + (0.0 if first_angle else edge)
            above = 12 + (edge if first_angle else 0.0)
            fit = fitted(box, paper, (26, below, LISTED, above), 1.0)
            if fit.has_room:
                break
        if fit.scale >= 1.0 and fit.paper == paper:
            break
    x, y = fit.on_paper(*box[:2])
    u, v = fit.on_paper(*box[2:])
    marks: list[Mark] = []
    cuts: list[_Cut] = []
    for slab in sorted(solid.slabs, key=lambda s: s.top):
        contours = slab.region.contours
        marks.append(Shape(tuple(ring(c, still, fit.scale, fit.shift) for c in contours), THICK))
        # A slab that is one round is a pin.
        cuts += [_cut(c, low) for c in (contours[1:] or contours) if contours[1:] or c.circle]
    listed = list(dict.fromkeys(sorted(cuts, key=lambda cut: (cut.y, cut.x))))
    for k, cut in enumerate(listed):
        cx, cy = x + cut.x * fit.scale, y + cut.y * fit.scale
        reach = 1.25 * cut.wide / 2 * fit.scale if cut.is_round else 2.5
        marks.append(straight((cx - reach, cy), (cx + reach, cy), pen=CENTRE))
        marks.append(straight((cx, cy - reach), (cx, cy + reach), pen=CENTRE))
        marks.append(Text((cx + 1.0, cy + 1.0), str(k + 1), 2.2))
    base = v + APART if first_angle else y - OFF - APART - thick * fit.scale
    edge_marks, thickness = _edge_view(row, solid, fit, base)
    marks += edge_marks
    key = f"part/{row.id}"
    dimensions = settled(
        [
            Dimension(f"{key}/width", (x, y), (u, y), y - OFF, wide),
            Dimension(f"{key}/height", (x, y), (x, v), x - OFF, tall, False),
            thickness,
            *_added(drawn, row, solid, fit, (x - OFF, y - OFF)),
        ],
        settings.dimensions,
    )
    for each in dimensions:
        marks += each.marks()
    marks += _listed(row, solid, listed, fit)
    return Leaf(
        key,
        row.title,
        f"Item {row.item}, {row.title}, {row.quantity} off",
        fit.paper,
        tuple(marks),
        scale_words(fit.scale),
        dimensions,
        projected=True,
    )


def _edge_view(row: Row, solid: SolidPart, fit: Fit, base: float) -> tuple[list[Mark], Dimension]:
    """The slabs from their edge, the lowest face at ``base``; and the dimension of its height."""
    lowest = min(slab.bottom for slab in solid.slabs)
    marks: list[Mark] = []
    right = -np.inf
    for slab in solid.slabs:
        low_x, _, high_x, _ = slab.region.contours[0].bounds()
        ends = [fit.on_paper(each, 0.0)[0] for each in (low_x, high_x)]
        faces = [base + (each - lowest) * fit.scale for each in (slab.bottom, slab.top)]
        corners = [(ends[i], faces[j]) for i, j in ((0, 0), (1, 0), (1, 1), (0, 1))]
        marks.append(straight(*corners, pen=THICK, closed=True, fill="#FFFFFF"))
        right = max(right, ends[1])
    top = base + row.thickness * fit.scale
    key = f"part/{row.id}/thickness"
    return marks, Dimension(
        key, (right, base), (right, top), right + OFF, row.thickness, False, outwards=1
    )


def _added(
    drawn: Drawn, row: Row, solid: SolidPart, fit: Fit, lines: tuple[float, float]
) -> Iterator[Dimension]:
    """What the designer added; one whose place is gone is left out."""
    for each in drawn.settings.added:
        if each.part == row.id and {each.first, each.second} <= solid.places.keys():
            yield _between(each, solid, fit, lines)


def _between(
    each: AddedDimension, solid: SolidPart, fit: Fit, lines: tuple[float, float]
) -> Dimension:
    one, two = (solid.places[name][:2] for name in (each.first, each.second))
    level = each.way == "level"
    along = 0 if level else 1
    return Dimension(
        each.key,
        fit.on_paper(*one),
        fit.on_paper(*two),
        lines[1] if level else lines[0],
        abs(two[along] - one[along]),
        level,
    )


def _listed(row: Row, solid: SolidPart, cuts: Sequence[_Cut], fit: Fit) -> list[Mark]:
    """Thickness, material, and where everything is cut out, as words beside the views."""
    lines = [f"thickness {length_words(row.thickness)}"]
    if len(solid.slabs) > 1:
        lines += [
            f"{slab.id.replace('_', ' ')}: {length_words(slab.bottom)} to {length_words(slab.top)}"
            for slab in solid.slabs
        ]
    if solid.source.material is not None:
        lines.append(f"{solid.source.material.name}, {(mass_of(solid) or 0.0) * 1000:.1f} g")
    if row.note:
        lines.append(row.note)
    if cuts:
        lines += ["", "From the lower left corner, x, y:"]
        lines += [f"{k + 1}   {cut.words}" for k, cut in enumerate(cuts)]
    width, height = PAPERS[fit.paper]
    down, at = height - MARGIN - 8, width - MARGIN - LISTED + 4
    most = int((down - MARGIN - HIGH - 8) / 4.2)
    if len(lines) > most:
        lines = [*lines[: most - 1], f"and {len(lines) - most + 1} more: see the DXF"]
    return [
        Text((at, down - 4.2 * k), shortened(words, 2.5, LISTED - 6), 2.5)
        for k, words in enumerate(lines)
    ]


@dataclass(frozen=True, slots=True)
class _Cut:
    """What is cut out, or a pin: its middle from the lower left corner, and how large it is."""

    x: float
    y: float
    wide: float
    tall: float
    is_round: bool

    @property
    def words(self) -> str:
        """'17, 17   Ø16.2', '120, 17   124 x 12'."""
        place = f"{length_words(self.x)}, {length_words(self.y)}"
        if self.is_round:
            return f"{place}   Ø{length_words(self.wide)}"
        return f"{place}   {length_words(self.wide)} x {length_words(self.tall)}"


def _cut(contour: Contour, corner: Floats) -> _Cut:
    low_x, low_y, high_x, high_y = contour.bounds()
    return _Cut(
        x=round((low_x + high_x) / 2 - float(corner[0]), 6),
        y=round((low_y + high_y) / 2 - float(corner[1]), 6),
        wide=round(high_x - low_x, 6),
        tall=round(high_y - low_y, 6),
        is_round=contour.circle is not None,
    )
