"""What can touch what in space: slabs of bodies that move in different planes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from anakinema.document import model
from anakinema.document.body_graph import one_piece_sets
from anakinema.document.couplings import wheels_of
from anakinema.document.planes import Link
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidSlab
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.convex import Solid, solid
from anakinema.wanted import still_wanted

MOST = 20_000
"""Pairs of slabs of different planes that are compared at most."""
LEVEL = 1e-12
"""Sine of the angle below which two planes are parallel."""


@dataclass(frozen=True, eq=False)
class SpacePair:
    """Two slabs of bodies on different planes, to compare over a motion.

    ``first_links``, ``second_links``: what carries each, from what carries both.
    """

    first_body: int
    second_body: int
    first: Solid
    second: Solid
    first_links: tuple[Link, ...]
    second_links: tuple[Link, ...]

    @property
    def bodies(self) -> tuple[int, int]:
        """Both body indices."""
        return self.first_body, self.second_body

    @cached_property
    def movers(self) -> tuple[int, ...]:
        """All bodies whose motion moves the two against one another."""
        return tuple(link.body for link in (*self.first_links, *self.second_links))

    @cached_property
    def made_of(self) -> tuple[object, ...]:
        """What it compares, and how the movers carry that."""
        links = (*self.first_links, *self.second_links)
        frames = tuple((link.body, link.frame.tobytes()) for link in links)
        slabs = tuple((id(s.region), s.bottom, s.top) for s in (self.first, self.second))
        return (*self.bodies, len(self.first_links), frames, slabs)

    def is_like(self, other: SpacePair) -> bool:
        """Whether another compares the same, whatever poses the movers take."""
        return self.made_of == other.made_of

    @cached_property
    def is_level(self) -> bool:
        """Whether the planes of the two stay parallel whatever moves."""
        return all(
            math.hypot(*link.frame[:2, 2]) <= LEVEL
            for link in (*self.first_links, *self.second_links)
        )


def space_pairs(resolved: Resolved) -> tuple[SpacePair, ...]:
    """All pairs of slabs on bodies of different planes, but for those that are one piece, and for
    wheels that a coupling keeps in mesh."""
    document, planes = resolved.document, resolved.planes
    if len(document.planes) < 2:
        return ()
    pieces, meshing = one_piece_sets(document), _meshing(document)
    solids: dict[tuple[int, str], Solid] = {}

    def placed(body: int, slab: SolidSlab) -> Solid:
        key = body, slab.id
        if key not in solids:
            height = float(resolved.heights[body])
            solids[key] = solid(slab.region, slab.bottom + height, slab.top + height)
        return solids[key]

    found: list[SpacePair] = []
    for i, first in enumerate(document.bodies):
        for j in range(i + 1, len(document.bodies)):
            second = document.bodies[j]
            if first.plane == second.plane or pieces[first.id] == pieces[second.id]:
                continue
            still_wanted()
            one, two = planes.links(i, j, resolved.heights)
            for a in resolved.part_of(first).slabs:
                for b in resolved.part_of(second).slabs:
                    if frozenset(((first.id, a.id), (second.id, b.id))) in meshing:
                        continue
                    found.append(
                        SpacePair(i, j, placed(i, a), placed(j, b), tuple(one), tuple(two))
                    )
            if len(found) > MOST:
                raise ValueOutOfRangeError(
                    f"comparing all slabs of different planes would take more than {MOST} pairs.",
                    where=f"bodies '{first.title}' and '{second.title}'",
                    remedy="Draw them with fewer slabs, or lay them on one plane.",
                )
    return tuple(found)


def _meshing(document: model.Document) -> set[frozenset[tuple[str, str]]]:
    """Pairs of (body, slab) that a coupling keeps in mesh."""
    found = set()
    for coupling in document.couplings:
        first, second = wheels_of(document.bodies, document.joints, coupling)
        for p in coupling.first_pieces:
            for q in coupling.second_pieces:
                found.add(frozenset(((first, p.slab), (second, q.slab))))
    return found


def standing(links: tuple[Link, ...], poses: Floats) -> Floats:
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
