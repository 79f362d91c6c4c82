"""Where planes of motion lie in space, and bodies on them.

Every body moves in its plane as in any planar mechanism; a plane stands in space, or is carried by
a body of another plane. So loops close inside planes, and where things are in space follows.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.document import model
from anakinema.document.reading import Reader
from anakinema.errors import MissingNameError, ValueOutOfRangeError
from anakinema.geometry.contour import Floats


@dataclass(frozen=True, slots=True, eq=False)
class PlaneValues:
    """A plane in numbers: where its origin (3,) mm and its directions (3, 3: x, y, normal as
    columns) are, seen from space or from the ``carrier`` (index of a body)."""

    id: str
    title: str
    origin: Floats
    turned: Floats
    carrier: int | None


@dataclass(frozen=True, slots=True, eq=False)
class Link:
    """A body that moves in a plane, and how that plane lies as the link before sees it: ``frame``
    (3, 4), heights above that one's datum."""

    body: int
    frame: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Planes:
    """All planes, each after the one whose body carries it; ``of`` (B,) is each body's."""

    all: tuple[PlaneValues, ...]
    of: npt.NDArray[np.int64]

    @property
    def is_one(self) -> bool:
        """Whether all bodies move in one plane that is where it seems to be."""
        first = self.all[0]
        stands = not first.origin.any() and np.array_equal(first.turned, np.eye(3))
        return stands and not self.of.any()

    def frames(self, poses: Floats, heights: Floats) -> Floats:
        """(P, 3, 4) from each plane to space: directions and origin, with bodies at poses (B, 3)
        and ``heights`` (B,) mm above their planes."""
        found = np.zeros((len(self.all), 3, 4))
        for k, plane in enumerate(self.all):
            turned, origin = plane.turned, plane.origin
            if plane.carrier is not None:
                body = plane.carrier
                frame = found[self.of[body]] @ _standing(poses[body], float(heights[body]))
                turned, origin = frame[:, :3] @ turned, frame[:, :3] @ origin + frame[:, 3]
            found[k, :, :3], found[k, :, 3] = turned, origin
        return found

    def links(self, first: int, second: int, heights: Floats) -> tuple[list[Link], list[Link]]:
        """The links that carry two bodies, each from the last thing that carries both of them, or
        one of which is the other; none for a body that carries the other one itself."""
        one, two = self._carriers(first), self._carriers(second)
        shared = 0
        while shared < min(len(one), len(two)) and one[shared] == two[shared]:
            shared += 1
        ways = [self._linked(way, shared, heights) for way in (one, two)]
        if ways[0] and ways[1] and self.of[one[shared]] == self.of[two[shared]]:
            # Both begin on one plane: how that lies does not matter.
            ways = [[Link(way[0].body, np.eye(3, 4)), *way[1:]] for way in ways]
        return ways[0], ways[1]

    def links_to(self, body: int, heights: Floats) -> tuple[Link, ...]:
        """The links that carry a body, from space."""
        return tuple(self._linked(self._carriers(body), 0, heights))

    def _linked(self, way: list[int], shared: int, heights: Floats) -> list[Link]:
        """The links of a way of bodies, without the first ``shared``."""
        found = []
        for body in way[shared:]:
            plane = self.all[self.of[body]]
            frame = np.column_stack([plane.turned, plane.origin])
            if plane.carrier is not None:
                frame[2, 3] += heights[plane.carrier]
            found.append(Link(body, frame))
        return found

    def _carriers(self, body: int) -> list[int]:
        """What carries a body, the first of all first, and the body itself."""
        way = [body]
        while (carrier := self.all[self.of[way[0]]].carrier) is not None:
            way.insert(0, carrier)
        return way

    def places(self, poses: Floats, heights: Floats, lifts: Floats) -> Floats:
        """(B, 3, 4) from each body's own frame, heights above its plane in it, to space; bodies
        raised by ``lifts`` (B,) mm off their planes, and what they carry with them."""
        count = len(poses)
        if self.is_one:
            found = np.zeros((count, 3, 4))
            c, s = np.cos(poses[:, 2]), np.sin(poses[:, 2])
            found[:, 0, 0], found[:, 0, 1], found[:, 1, 0], found[:, 1, 1] = c, -s, s, c
            found[:, 2, 2] = 1.0
            found[:, :2, 3], found[:, 2, 3] = poses[:, :2], lifts
            return found
        frames = self.frames(poses, heights + lifts)
        return np.array(
            [frames[self.of[k]] @ _standing(poses[k], float(lifts[k])) for k in range(count)]
        ).reshape(count, 3, 4)


def _standing(pose: Floats, height: float) -> Floats:
    """(4, 4) of a body at a pose (3,) and a height in its plane."""
    c, s = math.cos(pose[2]), math.sin(pose[2])
    return np.array(
        [[c, -s, 0, pose[0]], [s, c, 0, pose[1]], [0, 0, 1, height], [0, 0, 0, 1]], dtype=float
    )


def turned_by(turn: float, tilt: float, spin: float) -> Floats:
    """(3, 3) directions of a plane: turned about the normal it is seen from, then tilted about its
    own x, then turned about its own normal (Euler's angles z, x, z), rad."""
    return _about_z(turn) @ _about_x(tilt) @ _about_z(spin)


def _about_z(angle: float) -> Floats:
    c, s = math.cos(angle), math.sin(angle)
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]])


def _about_x(angle: float) -> Floats:
    c, s = math.cos(angle), math.sin(angle)
    return np.array([[1.0, 0, 0], [0, c, -s], [0, s, c]])


def plane_values(document: model.Document, reader: Reader) -> Planes:
    """All planes in numbers; raises an `AnakinemaError` for one that carries itself, or is carried
    by what is not there."""
    index = {body.id: k for k, body in enumerate(document.bodies)}
    order = _in_order(document, index)
    number = {plane.id: k for k, plane in enumerate(order)}
    values = []
    for plane in order:
        where = f"plane '{plane.title}'"
        x, y, z = reader.fields(plane, "x y z", where)
        turn, tilt, spin = reader.fields(plane, "turn tilt spin", where)
        carrier = index[plane.on] if plane.on is not None else None
        origin, turned = np.array([x, y, z]), turned_by(turn, tilt, spin)
        values.append(PlaneValues(plane.id, plane.title, origin, turned, carrier))
    of = np.array([number[body.plane] for body in document.bodies], dtype=np.int64)
    return Planes(tuple(values), of)


def _in_order(document: model.Document, index: Mapping[str, int]) -> list[model.Plane]:
    """Each plane after that on which its carrier stands; the first stays the first."""
    placed: list[model.Plane] = []
    left = list(document.planes)
    while left:
        ready = [plane for plane in left if _stands(plane, placed, document, index)]
        if not ready:
            raise _goes_round(left)
        placed.append(ready[0])
        left.remove(ready[0])
    return placed


def _stands(
    plane: model.Plane,
    placed: Sequence[model.Plane],
    document: model.Document,
    index: Mapping[str, int],
) -> bool:
    if plane.on is None:
        return True
    if plane.on not in index:
        raise MissingNameError(
            f"the body '{plane.on}' that carries it is not there.",
            where=f"plane '{plane.title}'",
            remedy="Let another body carry it, or let it stand.",
        )
    under = document.bodies[index[plane.on]].plane
    return any(under == each.id for each in placed)


def _goes_round(left: Sequence[model.Plane]) -> ValueOutOfRangeError:
    names = " and ".join(f"'{plane.title}'" for plane in left[:3])
    return ValueOutOfRangeError(
        f"it is carried by a body that it carries itself ({names}).",
        where=f"plane '{left[0].title}'",
        remedy="Let one of them stand, or be carried by a body of another plane.",
    )


def across(document: model.Document, bodies: Sequence[str]) -> bool:
    """Whether some bodies, those of them that are there, lie on different planes."""
    if len(document.planes) < 2:
        return False
    plane_of = {body.id: body.plane for body in document.bodies}
    return len({plane_of[body] for body in bodies if body in plane_of}) > 1
