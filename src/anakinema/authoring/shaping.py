"""Whole-part operations on outlines, stated in the same expressions wherever that can be."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from anakinema.authoring.expression_text import sum_of
from anakinema.authoring.mirroring import mirrored_part
from anakinema.authoring.relating import traces
from anakinema.authoring.slabs import with_outlines
from anakinema.document import model
from anakinema.document.contours import contour_of
from anakinema.document.relations import element_words, numbers_of, still_related
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit
from anakinema.edits.outline import OutlineKey, SetOutline, outline_in
from anakinema.edits.parts import ReplacePart
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.combine import corners_of
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import turned_about
from anakinema.units import LENGTH

Source = float | str
Move = Callable[[Source, Source], tuple[Source, Source]]


def outline_ring(resolved: Resolved, key: OutlineKey) -> Floats:
    """(V, 2) mm: an outline as it is drawn, flattened to 0.005 mm."""
    slab = next(s for s in resolved.parts[key.part].slabs if s.id == key.slab)
    polygon = slab.region.polygon
    if key.hole is None:
        return np.asarray(polygon.exterior.coords)
    return np.asarray(polygon.interiors[slab.region.hole_names.index(key.hole)].coords)


def corner_points(resolved: Resolved, key: OutlineKey) -> tuple[tuple[float, float], ...]:
    """mm: vertices of a path or centres of a hull's rounds; the centre of other shapes."""
    part = resolved.parts[key.part].source
    shape = outline_in(part, key)
    if isinstance(shape, model.Path | model.SlotAlong):
        corners: tuple[model.Vertex | model.Round, ...] = shape.vertices
    elif isinstance(shape, model.Hull):
        corners = shape.rounds
    elif isinstance(shape, model.CamOutline):
        return ((0.0, 0.0),)
    else:
        return ((resolved.number(part, shape.x, LENGTH), resolved.number(part, shape.y, LENGTH)),)
    return tuple(
        (resolved.number(part, c.x, LENGTH), resolved.number(part, c.y, LENGTH)) for c in corners
    )


def as_path(resolved: Resolved, key: OutlineKey) -> Edit:
    """The outline stated as a path of lines and arcs, so that every corner can be moved."""
    part = resolved.parts[key.part].source
    contour = contour_of(
        outline_in(part, key),
        resolved.reader.within(part),
        f"part '{part.title}'",
        is_opening=key.hole is not None,
    )
    vertices = [
        model.Vertex(x=f"{x:.10g} mm", y=f"{y:.10g} mm", bulge=round(bulge, 12))
        for x, y, bulge in corners_of(contour)
    ]
    return SetOutline(key, model.Path(shape="path", vertices=tuple(vertices)), "Make it a path")


def turned_over(part: model.Part) -> Edit | None:
    """The part turned over about its level axis; None if it then looks the same."""
    image = mirrored_part(part)
    return None if image is None else ReplacePart(image, "Turn over")


def put_on_origin(resolved: Resolved, part: model.Part, element: model.Element) -> Edit:
    """The part moved in its own frame so that a corner, centre or place lies on the origin.

    Stated in the expressions that place it, so that it stays there whatever is changed.
    """
    unit = resolved.units.length
    stated = {(s.slab, s.hole, s.index, s.field): source for s, source in numbers_of(part)}
    owner = (None, element.place) if element.kind == "place" else (element.slab, element.hole)
    at = [(*owner, index, name) for index in (element.index, -1) for name in ("x", "y")]
    x, y = (stated[key] for key in [key for key in at if key in stated][:2])

    def move(px: Source, py: Source) -> tuple[Source, Source]:
        return sum_of((1.0, px), (-1.0, x), unit=unit), sum_of((1.0, py), (-1.0, y), unit=unit)

    words = element_words(part, element)
    return ReplacePart(_moved(resolved, part, move, 0.0), f"Put {words} on the origin")


def turned_along(
    resolved: Resolved, part: model.Part, elements: Sequence[model.Element], upright: bool
) -> Edit:
    """The part turned in its own frame so that an edge, or the line of two points, is level.

    Or upright. Raises `ValueOutOfRangeError` for what has no direction.
    """
    lines = traces(resolved, part.id, elements)
    points = np.concatenate([line[[0, -1]] if len(elements) == 1 else line[:1] for line in lines])
    along = points[-1] - points[0] if len(points) > 1 else np.zeros(2)
    if float(np.hypot(*along)) < 1e-9:
        raise ValueOutOfRangeError(
            "that has no direction.",
            where=f"part '{part.title}'",
            remedy="Pick a straight edge, or two points that lie apart.",
        )
    angle = (math.pi / 2 if upright else 0.0) - math.atan2(float(along[1]), float(along[0]))
    move = rotation(angle, resolved.units.length)
    words = "Turn upright" if upright else "Turn level"
    return ReplacePart(_moved(resolved, part, move, math.degrees(angle)), words)


def rotation(angle: float, unit: str) -> Move:
    """A turn about the origin (rad), stated in expressions."""
    c, s = math.cos(angle), math.sin(angle)
    c, s = (round(v) if abs(v - round(v)) < 1e-15 else v for v in (c, s))

    def move(x: Source, y: Source) -> tuple[Source, Source]:
        return sum_of((c, x), (-s, y), unit=unit), sum_of((s, x), (c, y), unit=unit)

    return move


def _turned(source: Source, degrees: float, unit: str) -> Source:
    if not degrees:
        return source
    if isinstance(source, str):
        return f"{source} + {degrees:.12g} deg"
    return f"{source:.12g} {unit} + {degrees:.12g} deg"


def moved_outline(shape: model.Outline, move: Move, degrees: float, angle: str) -> model.Outline:
    """An outline moved in its plane; ``angle`` is the unit of angles without one."""
    if isinstance(shape, model.Path | model.SlotAlong):
        moved = []
        for vertex in shape.vertices:
            x, y = move(vertex.x, vertex.y)
            moved.append(vertex.model_copy(update={"x": x, "y": y}))
        return shape.model_copy(update={"vertices": tuple(moved)})
    if isinstance(shape, model.Hull):
        rounds = []
        for each in shape.rounds:
            x, y = move(each.x, each.y)
            rounds.append(each.model_copy(update={"x": x, "y": y}))
        return shape.model_copy(update={"rounds": tuple(rounds)})
    if isinstance(shape, model.CamOutline):
        raise ValueOutOfRangeError(
            "a cam turns about the origin of its part.",
            where="outline",
            remedy="Move the body instead, or draw the rest of the part about the cam.",
        )
    x, y = move(shape.x, shape.y)
    if isinstance(shape, model.TURNED_SHAPES):
        turned = _turned(shape.turned, degrees, angle)
        return shape.model_copy(update={"x": x, "y": y, "turned": turned})
    return shape.model_copy(update={"x": x, "y": y})


def _moved(resolved: Resolved, part: model.Part, move: Move, degrees: float) -> model.Part:
    """The part moved in its own frame; what is no longer so is no longer kept."""
    unit = resolved.units.angle
    places = []
    for place in part.places:
        x, y = move(place.x, place.y)
        turned = _turned(place.angle, degrees, unit)
        places.append(place.model_copy(update={"x": x, "y": y, "angle": turned}))
    slabs = with_outlines(part.slabs, lambda shape: moved_outline(shape, move, degrees, unit))
    curves = []
    for curve in part.curves:
        moved = [
            vertex.model_copy(update=dict(zip("xy", move(vertex.x, vertex.y), strict=True)))
            for vertex in curve.vertices
        ]
        curves.append(curve.model_copy(update={"vertices": tuple(moved)}))
    update = {"places": tuple(places), "slabs": slabs, "curves": tuple(curves)}
    return still_related(part.model_copy(update=update), resolved.reader)


def repeated_round(resolved: Resolved, key: OutlineKey, x: float, y: float, count: int) -> Edit:
    """A path's vertices again and again round a centre (mm): a tooth becomes a wheel."""
    part = resolved.parts[key.part].source
    shape = outline_in(part, key)
    if not isinstance(shape, model.Path) or not 2 <= count <= 200:
        raise ValueOutOfRangeError(
            "only a path of corners can be repeated, 2 to 200 times.",
            where=f"part '{part.title}'",
            remedy="Make it a path first.",
        )
    if len(shape.vertices) * count > model.MOST_ITEMS:
        raise ValueOutOfRangeError(
            f"that makes more than {model.MOST_ITEMS} corners.",
            where=f"part '{part.title}'",
            remedy="Repeat it less often.",
        )
    points = corner_points(resolved, key)
    vertices = []
    for k in range(count):
        turn = 2 * math.pi * k / count
        for point, vertex in zip(points, shape.vertices, strict=True):
            px, py = turned_about((x, y), point, turn)
            vertices.append(vertex.model_copy(update={"x": f"{px:.10g} mm", "y": f"{py:.10g} mm"}))
    return SetOutline(key, model.Path(shape="path", vertices=tuple(vertices)), "Repeat round")
