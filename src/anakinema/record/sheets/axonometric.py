"""Bodies seen from above at an angle, in parallel projection, as marks on paper."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from anakinema.depth.painters_order import Piece, Sight, pieces
from anakinema.depth.placed import Prism, Trail
from anakinema.record.sheets.paper import Edge, Line, Mark, Pen, Place, Shape, straight

SIGHT = Sight(math.radians(-30.0), math.radians(40.0))
"""From where it is looked at."""
LONG = 24.0
"""mm of paper; longer walls are drawn in pieces, so that their middles tell which is nearer."""
FACE, WALL, DIM_FACE, DIM_WALL = "#FFFFFF", "#DDE1E4", "#FFFFFF", "#F3F4F5"
INK, SEAM, FAINT = Pen(0.35), 0.15, Pen(0.18, "#9AA3A9")
TRAIL = Pen(0.18, "#60686E", (3.0, 1.2))


def seen_box(prisms: Sequence[Prism], sight: Sight = SIGHT) -> tuple[float, float, float, float]:
    """What holds all of them as they are seen."""
    places = []
    for prism in prisms:
        rim = shapely.get_coordinates(prism.slab.polygon.convex_hull)
        for z in (prism.bottom, prism.top):
            places += [sight.projected(float(x), float(y), z) for x, y in rim]
    found = np.array(places)
    (a, b), (c, d) = found.min(axis=0), found.max(axis=0)
    return float(a), float(b), float(c), float(d)


def seen(
    prisms: Sequence[Prism],
    trails: Sequence[Trail],
    scale: float,
    shift: Place,
    sight: Sight = SIGHT,
) -> list[Mark]:
    """Marks of all of them, the farthest first."""
    # Chords a tenth of a pen from their arcs on paper.
    found = pieces(prisms, trails, sight, fine=0.04 / scale, longest=LONG / scale)
    return [mark for piece in found for mark in _marks(piece, scale, shift)]


def _on_paper(place: Place, scale: float, shift: Place) -> Place:
    return place[0] * scale + shift[0], place[1] * scale + shift[1]


def _marks(piece: Piece, scale: float, shift: Place) -> list[Mark]:
    lines = [[_on_paper(end, scale, shift) for end in line] for line in piece.lines]
    if piece.prism is None:
        return [straight(*line, pen=TRAIL) for line in lines]
    rings = [[_on_paper(place, scale, shift) for place in ring] for ring in piece.rings]
    is_faint = piece.prism.faint
    ink = FAINT if is_faint else INK
    if piece.is_face:
        fill = DIM_FACE if is_faint else FACE
        outlines = tuple(
            Line(ring[0], tuple(map(Edge, ring[1:])), None, None, True) for ring in rings
        )
        return [Shape(outlines, ink, fill)]
    fill = DIM_WALL if is_faint else WALL
    # A seam of its own colour, or paper shows between neighbours.
    marks: list[Mark] = [
        straight(*ring, pen=Pen(SEAM, fill), closed=True, fill=fill) for ring in rings
    ]
    return marks + [straight(*line, pen=ink) for line in lines]
