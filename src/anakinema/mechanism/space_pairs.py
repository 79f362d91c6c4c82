"""What can touch what in space: slabs of bodies that move in different planes, and rods."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from anakinema.document import model
from anakinema.document.body_graph import one_piece_sets
from anakinema.document.couplings import wheels_of
from anakinema.document.planes import Link
from anakinema.document.resolve import Resolved
from anakinema.document.rods_in_space import balls_of, frames_along
from anakinema.document.solids import SolidSlab
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.convex import Solid, rod_solid, solid
from anakinema.wanted import still_wanted

MOST = 20_000
"""Pairs of slabs of different planes that are compared at most."""
LEVEL = 1e-12
"""Sine of the angle below which two planes are parallel."""

Links = tuple[Link, ...]


@dataclass(frozen=True, slots=True, eq=False)
class Guided:
    """A point (3,) mm on the last body of some links; what is about it moves within ``radius`` mm
    with the earlier links, and within ``turning`` mm with the last one."""

    links: Links
    point: Floats
    radius: float
    turning: float


@dataclass(frozen=True, eq=False)
class Carried:
    """A slab, by the links that carry it."""

    solid: Solid
    links: Links

    @cached_property
    def guides(self) -> tuple[Guided, ...]:
        """Its middle."""
        wrap, region = self.solid.wrap, self.solid.region
        turning = wrap.radius if region is None else region.turning_radius
        return (Guided(self.links, wrap.centre, wrap.radius, turning),)

    def standing(self, poses: Floats) -> Floats:
        """(N, 3, 4) where its frame stands at poses (N, B, 3)."""
        return standing(self.links, poses)


@dataclass(frozen=True, eq=False)
class Spanned:
    """A rod between two balls, each on the last body of its links."""

    solid: Solid
    ends: tuple[Guided, Guided]

    @property
    def links(self) -> Links:
        """Those of both balls."""
        return (*self.ends[0].links, *self.ends[1].links)

    @property
    def guides(self) -> tuple[Guided, ...]:
        """Its balls: what is between them moves no faster than the faster one."""
        return self.ends

    def standing(self, poses: Floats) -> Floats:
        """(N, 3, 4) a frame at the first ball whose x points to the second."""
        one, two = (
            np.einsum("nij,j->ni", place[:, :, :3], end.point) + place[:, :, 3]
            for end in self.ends
            for place in [standing(end.links, poses)]
        )
        return frames_along(one, two)


@dataclass(frozen=True, eq=False)
class SpacePair:
    """Two things of different planes, to compare over a motion; of a rod the first body is one that
    it ties, and ``rod`` the index of its joint."""

    first_body: int
    second_body: int
    first: Carried | Spanned
    second: Carried | Spanned
    rod: int | None = None

    @property
    def bodies(self) -> tuple[int, int]:
        """Both body indices."""
        return self.first_body, self.second_body

    @property
    def about(self) -> frozenset[int]:
        """The bodies whose gap it is: of a rod only the other one."""
        return frozenset(self.bodies if self.rod is None else (self.second_body,))

    @cached_property
    def movers(self) -> tuple[int, ...]:
        """All bodies whose motion moves the two against one another."""
        return tuple(link.body for link in (*self.first.links, *self.second.links))

    @cached_property
    def made_of(self) -> tuple[object, ...]:
        """What it compares, and how the movers carry that."""
        sides: list[object] = []
        for side in (self.first, self.second):
            wrap = side.solid.wrap
            sides += [id(side.solid.region), wrap.bottom, wrap.top, wrap.radius, wrap.swell]
            for guide in side.guides:
                links = tuple((link.body, link.frame.tobytes()) for link in guide.links)
                sides += [guide.point.tobytes(), links]
        return (*self.bodies, self.rod, *sides)

    def is_like(self, other: SpacePair) -> bool:
        """Whether another compares the same, whatever poses the movers take."""
        return self.made_of == other.made_of

    @cached_property
    def is_level(self) -> bool:
        """Whether both are slabs whose planes stay parallel whatever moves."""
        slabs = isinstance(self.first, Carried) and isinstance(self.second, Carried)
        links = (*self.first.links, *self.second.links)
        return slabs and all(math.hypot(*link.frame[:2, 2]) <= LEVEL for link in links)


def space_pairs(resolved: Resolved) -> tuple[SpacePair, ...]:
    """All pairs of slabs on bodies of different planes, but for those that are one piece and for
    wheels that a coupling keeps in mesh; and of rods with what they do not tie."""
    document = resolved.document
    if len(document.planes) < 2 and not any(values.rod for values in resolved.joints):
        return ()
    solids = _solids(resolved)
    found: list[SpacePair] = []
    for pair in (*_of_slabs(resolved, solids), *_of_rods(resolved, solids)):
        found.append(pair)
        if len(found) > MOST:
            one, two = (document.bodies[k].title for k in pair.bodies)
            raise ValueOutOfRangeError(
                f"comparing all slabs of different planes would take more than {MOST} pairs.",
                where=f"bodies '{one}' and '{two}'",
                remedy="Draw them with fewer slabs, or lay them on one plane.",
            )
    return tuple(found)


Solids = list[list[tuple[SolidSlab, Solid]]]


def _solids(resolved: Resolved) -> Solids:
    """Of each body its slabs, heights above its plane."""
    return [
        [
            (slab, solid(slab.region, slab.bottom + height, slab.top + height))
            for slab in resolved.part_of(body).slabs
        ]
        for body, height in zip(resolved.document.bodies, resolved.heights.tolist(), strict=True)
    ]


def _of_slabs(resolved: Resolved, solids: Solids) -> Iterator[SpacePair]:
    document, planes = resolved.document, resolved.planes
    pieces, meshing = one_piece_sets(document), _meshing(document)
    same: dict[tuple[int, bytes], Link] = {}

    def shared(way: list[Link]) -> Links:
        """The same links again wherever they are alike, so that each is followed once."""
        return tuple(same.setdefault((link.body, link.frame.tobytes()), link) for link in way)

    for i, first in enumerate(document.bodies):
        for j in range(i + 1, len(document.bodies)):
            second = document.bodies[j]
            if first.plane == second.plane or pieces[first.id] == pieces[second.id]:
                continue
            still_wanted()
            one, two = (shared(way) for way in planes.links(i, j, resolved.heights))
            others = [(b, Carried(each, two)) for b, each in solids[j]]
            for a, first_solid in solids[i]:
                side = Carried(first_solid, one)
                for b, other in others:
                    if frozenset(((first.id, a.id), (second.id, b.id))) not in meshing:
                        yield SpacePair(i, j, side, other)


def _of_rods(resolved: Resolved, solids: Solids) -> Iterator[SpacePair]:
    """Rods and the slabs of all bodies that they do not tie, and rods among themselves."""
    rods = [
        (k, *_rod(resolved, k))
        for k, values in enumerate(resolved.joints)
        if values.rod is not None
    ]
    for n, (k, ends, rod) in enumerate(rods):
        for j, slabs in enumerate(solids):
            still_wanted()
            if j in ends:
                continue
            links = resolved.planes.links_to(j, resolved.heights)
            for _, each in slabs:
                yield SpacePair(ends[0], j, rod, Carried(each, links), rod=k)
        for _, others, other in rods[n + 1 :]:
            if not set(ends) & set(others):
                yield SpacePair(ends[0], others[0], rod, other, rod=k)


def _rod(resolved: Resolved, joint: int) -> tuple[tuple[int, int], Spanned]:
    """The two bodies that a rod ties, and the rod."""
    rod = resolved.joints[joint].rod
    assert rod is not None
    (one, first), (two, second) = balls_of(resolved, joint)
    ends = (
        Guided(resolved.planes.links_to(one, resolved.heights), first, 0.0, 0.0),
        Guided(resolved.planes.links_to(two, resolved.heights), second, 0.0, 0.0),
    )
    return (one, two), Spanned(rod_solid(rod.length, rod.radius), ends)


def _meshing(document: model.Document) -> set[frozenset[tuple[str, str]]]:
    """Pairs of (body, slab) that a coupling keeps in mesh."""
    found = set()
    for coupling in document.couplings:
        first, second = wheels_of(document.bodies, document.joints, coupling)
        for p in coupling.first_pieces:
            for q in coupling.second_pieces:
                found.add(frozenset(((first, p.slab), (second, q.slab))))
    return found


def standing(links: Links, poses: Floats) -> Floats:
    """(N, 3, 4) where the frame of the last link's body stands as what carries both of a pair sees
    it, bodies at poses (N, B, 3)."""
    count = len(poses)
    turned = np.broadcast_to(np.eye(3), (count, 3, 3))
    origin = np.zeros((count, 3))
    for link in links:
        origin = origin + turned @ link.frame[:, 3]
        turned = turned @ link.frame[:, :3]
        pose = poses[:, link.body]
        origin = origin + np.einsum("nij,nj->ni", turned[:, :, :2], pose[:, :2])
        c, s = np.cos(pose[:, 2])[:, None], np.sin(pose[:, 2])[:, None]
        x, y = turned[:, :, 0], turned[:, :, 1]
        turned = np.stack([c * x + s * y, c * y - s * x, turned[:, :, 2]], axis=2)
    return np.concatenate([turned, origin[:, :, None]], axis=2)
