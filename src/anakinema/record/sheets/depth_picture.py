"""The mechanism in depth as lines: each body in its colour, in the exact painter's order."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from anakinema.depth.painters_order import Piece, Sight, pieces
from anakinema.depth.placed import Prism, Trail, placed_slabs
from anakinema.document.resolve import Resolved
from anakinema.errors import FileFormatError
from anakinema.geometry.contour import Floats
from anakinema.record.bodies_in_space import COLOURS
from anakinema.record.sheets.axonometric import TRAIL, seen_box
from anakinema.record.sheets.paper import Edge, Line, Mark, Pen, Place, Shape, straight
from anakinema.record.sheets.sheet import Leaf, Sheet
from anakinema.record.sheets.writers import svg

LARGEST, MARGIN = 260.0, 8.0
"""mm of the longer side of the picture, and round it."""
INK, SEAM = Pen(0.3, "#24303A"), 0.12
LONG, FINE = 16.0, 0.02
"""mm of the picture: walls in pieces no longer, chords no farther from their arcs."""
SHADE = 0.80
"""What walls are darker by than faces."""


def depth_picture(
    resolved: Resolved,
    poses: Floats,
    lifts: Floats,
    sight: Sight,
    trails: Collection[Trail],
    hidden: Collection[int],
) -> bytes:
    """Bodies at poses (B, 3) raised by ``lifts`` (B,) mm as SVG, in parallel projection; raises
    `FileFormatError` where nothing is shown."""
    slabs = placed_slabs(resolved, poses)
    prisms = [Prism(s, float(lifts[s.body])) for s in slabs if s.body not in hidden]
    if not prisms:
        raise FileFormatError(
            "nothing that is shown has an outline.",
            where=f"mechanism '{resolved.document.name}'",
            remedy="Show a body that has one first.",
        )
    box = seen_box(prisms, sight)
    wide, tall = max(box[2] - box[0], 1e-6), max(box[3] - box[1], 1e-6)
    scale = (LARGEST - 2 * MARGIN) / max(wide, tall)
    shift = MARGIN - box[0] * scale, MARGIN - box[1] * scale
    found = pieces(prisms, list(trails), sight, fine=FINE / scale, longest=LONG / scale)
    colours = {
        k: COLOURS[resolved.document.part(body.part).colour]
        for k, body in enumerate(resolved.document.bodies)
    }
    marks = [mark for piece in found for mark in _marks(piece, scale, shift, colours)]
    leaf = Leaf("depth", "In depth", "In depth", "A4", tuple(marks), "none")
    size = wide * scale + 2 * MARGIN, tall * scale + 2 * MARGIN
    return svg(Sheet(leaf, *size, leaf.marks)).encode()


def _marks(piece: Piece, scale: float, shift: Place, colours: Mapping[int, str]) -> list[Mark]:
    def at(place: Place) -> Place:
        return place[0] * scale + shift[0], place[1] * scale + shift[1]

    if piece.prism is None:
        return [straight(at(a), at(b), pen=TRAIL) for a, b in piece.lines]
    fill = colours[piece.prism.slab.body]
    if piece.is_face:
        rings = tuple(
            Line(at(ring[0]), tuple(Edge(at(place)) for place in ring[1:]), None, None, True)
            for ring in piece.rings
        )
        return [Shape(rings, INK, fill)]
    wall = _darker(fill)
    marks: list[Mark] = [
        straight(*(at(place) for place in ring), pen=Pen(SEAM, wall), closed=True, fill=wall)
        for ring in piece.rings
    ]
    return marks + [straight(at(a), at(b), pen=INK) for a, b in piece.lines]


def _darker(colour: str) -> str:
    parts = (int(colour[k : k + 2], 16) for k in (1, 3, 5))
    return "#" + "".join(f"{round(part * SHADE):02X}" for part in parts)
