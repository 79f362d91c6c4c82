"""A part from an imported drawing: its largest outline, with the loops inside it as holes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from anakinema.document import model
from anakinema.document.model import MOST_ITEMS
from anakinema.document.reading import GLOBAL_LIMIT
from anakinema.errors import GeometryError
from anakinema.geometry import contour
from anakinema.geometry.contour import Contour
from anakinema.geometry.region import Region
from anakinema.parts.making import circle, place

LoopNumbers = tuple[tuple[tuple[float, float, float], ...], tuple[float, float, float] | None]
"""Vertices (x, y, bulge), or else a circle (x, y, radius), in the drawing's own unit."""


class Outlined:
    """Loops of a drawing put in order: the outline, its holes, what was left out.

    Raises `GeometryError` if no loop makes a sound outline.
    """

    def __init__(self, loops: Sequence[LoopNumbers], scale: float) -> None:
        self.notes: list[str] = []
        shapes: list[tuple[model.Outline, Contour, shapely.Polygon]] = []
        for vertices, round_one in loops:
            try:
                shapes.append(_shape(vertices, round_one, scale))
            except GeometryError as error:
                self.notes.append(f"an outline left out: {error.what.rstrip('.')}")
        if not shapes:
            raise GeometryError(
                "none of its outlines is a plain closed shape.",
                where="drawing",
                remedy="Draw the outline without crossings, then export it again.",
            )
        shapes.sort(key=lambda each: -each[2].area)
        self.outline, outer, area = shapes[0]
        shapely.prepare(area)
        inside = [each for each in shapes[1:] if area.contains_properly(each[2])]
        self.holes: list[model.Outline] = []
        contours: list[Contour] = []
        tree = shapely.STRtree([polygon for _, _, polygon in inside])
        kept = np.zeros(len(inside), dtype=bool)
        for k, (outline, edges, polygon) in enumerate(inside):
            near = tree.query(polygon, predicate="intersects")
            if kept[near].any() or len(contours) == MOST_ITEMS:
                self.notes.append("a hole left out: it crosses another, or there are too many")
                continue
            kept[k] = True
            contours.append(edges)
            self.holes.append(outline)
        others = len(shapes) - 1 - len(inside)
        if others:
            self.notes.append(f"{others} more outlines beside the largest left out")
        self.region = Region.build(outer, tuple(contours), tuple(map(str, range(len(contours)))))

    def part(self, part_id: str, name: str, thickness: str, colour: model.Colour) -> model.Part:
        """The part, a place at the centre of every round hole."""
        holes, places = [], [place("origin")]
        for k, outline in enumerate(self.holes, start=1):
            holes.append(model.Hole(id=f"hole_{k}", outline=outline))
            if isinstance(outline, model.Circle):
                places.append(place(f"hole_{k}", outline.x, outline.y))
        slab = model.Slab(
            id="plate", bottom=0.0, top="thickness", outline=self.outline, holes=tuple(holes)
        )
        return model.Part(
            id=part_id,
            name=name,
            colour=colour,
            places=tuple(places),
            slabs=(slab,),
            dimensions=(model.Parameter(id="thickness", value=thickness),),
        )


def _shape(
    vertices: tuple[tuple[float, float, float], ...],
    round_one: tuple[float, float, float] | None,
    scale: float,
) -> tuple[model.Outline, Contour, shapely.Polygon]:
    """The outline stated in mm, its exact contour, and its flattened polygon."""
    numbers = round_one or [value for x, y, _ in vertices for value in (x, y)]
    if max(map(abs, numbers)) * scale >= GLOBAL_LIMIT:
        raise GeometryError("it reaches too far.", where="drawing", remedy="Choose a smaller unit.")
    if round_one is not None:
        x, y, radius = (round(value * scale, 9) for value in round_one)
        edges = contour.circle(x, y, radius)
        outline: model.Outline = circle(f"{radius:.10g} mm", f"{x:.10g} mm", f"{y:.10g} mm")
    else:
        stated = [
            (round(x * scale, 9), round(y * scale, 9), bulge, 0.0) for x, y, bulge in vertices
        ]
        edges = contour.path(stated)
        outline = model.Path(
            shape="path",
            vertices=tuple(
                model.Vertex(x=f"{x:.10g} mm", y=f"{y:.10g} mm", bulge=round(bulge, 12))
                for x, y, bulge, _ in stated
            ),
        )
    Region.build(edges, (), ())
    return outline, edges, shapely.Polygon(edges.polygon())
