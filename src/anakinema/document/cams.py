"""Cams of a part in numbers: their lift, their follower and their exact curves."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from anakinema.document import model
from anakinema.document.follower_kinds import face_of, numbers_used, way_of
from anakinema.document.names import missing
from anakinema.document.reading import Reader
from anakinema.errors import GeometryError
from anakinema.geometry import cams
from anakinema.geometry.contour import Contour, path
from anakinema.geometry.curve import Curve
from anakinema.geometry.fitting import as_arcs
from anakinema.geometry.lift import Lift, Segment, points_lift, segments_lift

OUTLINE = 2e-4
"""mm by which the arcs of an outline may stray from the exact profile."""


@dataclass(frozen=True, slots=True)
class CamNumbers:
    """A cam in mm and rad."""

    base: float
    follower: cams.Follower
    segments: tuple[Segment, ...]
    points: tuple[tuple[float, float], ...]
    ease: float


class CamShape:
    """A cam with its lift and curves; making them raises `GeometryError`."""

    def __init__(self, numbers: CamNumbers) -> None:
        self.numbers = numbers
        self.lift: Lift = (
            points_lift(*np.array(numbers.points).T)
            if numbers.points
            else segments_lift(numbers.segments, numbers.ease)
        )
        self._outlines: dict[float, Contour] = {}

    @cached_property
    def profile(self) -> Curve:
        """What the follower touches."""
        return cams.profile(self.lift, self.numbers.base, self.numbers.follower)

    @cached_property
    def path(self) -> Curve | None:
        """The way of a round follower's centre."""
        if self.numbers.follower.is_flat:
            return None
        return cams.pitch_curve(self.lift, self.numbers.base, self.numbers.follower)

    def outline(self, beyond: float) -> Contour:
        """The profile, or what lies farther out, as arcs."""
        if beyond not in self._outlines:
            curve = cams.profile(self.lift, self.numbers.base, self.numbers.follower, beyond)
            rows = as_arcs(curve, OUTLINE)
            self._outlines[beyond] = path([(x, y, bulge, 0.0) for x, y, bulge in rows])
        return self._outlines[beyond]


_shape = lru_cache(maxsize=64)(CamShape)


def cam_numbers(cam: model.Cam, reader: Reader, where: str) -> CamNumbers:
    """The numbers of a cam; raises an `AnakinemaError` that names the place."""
    face, way = face_of(cam.follower), way_of(cam.follower)
    # An offset counts for a flat face that slides too: it moves the place where it touches.
    used = {*numbers_used(face, way), "offset"}

    def length(name: str) -> float:
        return reader.field(cam.follower, name, f"{where}, follower") if name in used else 0.0

    follower = cams.Follower(
        is_flat=face.is_flat,
        radius=length("radius"),
        is_swinging=way.swings,
        offset=length("offset"),
        arm=length("arm"),
        centres=length("centres"),
    )
    segments = tuple(
        Segment(
            reader.field(each, "turn", f"{where}, segment {k + 1}"),
            reader.read(each.to, way.lifted, f"{where}, segment {k + 1}", "to"),
            each.law,
        )
        for k, each in enumerate(cam.segments)
    )
    points = tuple(
        (
            reader.field(each, "angle", f"{where}, point {k + 1}"),
            reader.read(each.lift, way.lifted, f"{where}, point {k + 1}", "lift"),
        )
        for k, each in enumerate(cam.points)
    )
    base = reader.field(cam, "base", where)
    if base <= 0:
        raise GeometryError(
            f"its base radius is {base:g} mm.", where=where, remedy="Give it one above 0."
        )
    return CamNumbers(base, follower, segments, points, reader.field(cam, "ease", where))


def cam_shape(cam: model.Cam, reader: Reader, where: str) -> CamShape:
    """A cam with its lift; raises an `AnakinemaError` that names the place."""
    at = f"{where}, cam '{cam.title}'"
    numbers = cam_numbers(cam, reader, at)
    try:
        return _shape(numbers)
    except GeometryError as error:
        raise GeometryError(error.what, where=at, remedy=error.remedy) from error


def cam_curves(part: model.Part, reader: Reader, where: str) -> dict[str, Curve]:
    """The curves of all cams of a part by their names."""
    found: dict[str, Curve] = {}
    for cam in part.cams:
        shape = cam_shape(cam, reader, where)
        try:
            found[cam.id] = shape.profile
            path_curve = shape.path
        except GeometryError as error:
            at = f"{where}, cam '{cam.title}'"
            raise GeometryError(error.what, where=at, remedy=error.remedy) from error
        if path_curve is not None:
            found[f"{cam.id}_path"] = path_curve
    return found


def cam_contour(outline: model.CamOutline, reader: Reader, where: str) -> Contour:
    """The contour of a cam outline of the reader's part."""
    by_id = {} if reader.part is None else {cam.id: cam for cam in reader.part.cams}
    if outline.cam not in by_id:
        raise missing(f"cam '{outline.cam}'", where, by_id)
    beyond = reader.field(outline, "beyond", where)
    return cam_shape(by_id[outline.cam], reader, where).outline(beyond)
