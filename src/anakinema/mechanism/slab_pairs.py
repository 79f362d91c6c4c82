"""What can touch what: pairs of slabs that share heights, less the pieces a joint is made of."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from anakinema.document import model
from anakinema.document.body_graph import one_piece_sets
from anakinema.document.coupling_kinds import Couples, coupling_spec
from anakinema.document.couplings import CouplingValues, wheels_of
from anakinema.document.pieces import edges_of, ring_of
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidSlab
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.region import Region
from anakinema.mechanism.axles import Axles
from anakinema.wanted import still_wanted

MOST_SIZE = 200_000_000
OWN_SIZE = 600
"""Bytes of all comparisons of a mechanism, one for each pair of edges; and of each by itself."""
TOUCHING_FACES = 1e-9
"""mm; slabs that only share a face do not share heights."""


@dataclass(frozen=True, slots=True, eq=False)
class SlabPair:
    """Two slabs to compare over a motion.

    compared : (E1, E2) edge pairs that count. enclosed : the joint says that one lies in a
    hole of the other, or along its rim, so being inside is not a collision.
    """

    first_body: int
    second_body: int
    first: SolidSlab
    second: SolidSlab
    compared: npt.NDArray[np.bool_]
    enclosed: bool

    @property
    def bodies(self) -> tuple[int, int]:
        """Both body indices."""
        return self.first_body, self.second_body

    @property
    def rod(self) -> None:
        """It is between two slabs."""

    @property
    def about(self) -> frozenset[int]:
        """The bodies whose gap it is."""
        return frozenset(self.bodies)

    @property
    def movers(self) -> tuple[int, int]:
        """The bodies whose motion moves the two against one another: these two."""
        return self.bodies

    @property
    def made_of(self) -> tuple[object, ...]:
        """What it compares, but for which edges of it."""
        return *self.bodies, id(self.first.region), id(self.second.region), self.enclosed

    def is_like(self, other: SlabPair) -> bool:
        """Whether another compares the same, whatever poses the bodies take."""
        return self.made_of == other.made_of and np.array_equal(self.compared, other.compared)


_kept: list[tuple[tuple[object, ...], tuple[SlabPair, ...]]] = []
"""What the newest pairs were found from, and those pairs: an edit of a limit changes neither."""


def slab_pairs(resolved: Resolved) -> tuple[SlabPair, ...]:
    """All pairs of slabs on different bodies that can touch while the mechanism moves.

    Bodies that never move against each other (both fixed, or one piece by rigid joints) are
    left out: what is made as one is not a clearance.
    """
    document = resolved.document
    if document.couplings:
        return _found(resolved)
    made_from: tuple[object, ...] = (
        resolved.heights.tobytes(),
        *document.bodies,
        *(resolved.part_of(body) for body in document.bodies),
        *(each for j in document.joints for each in (j.first, j.second, j.kind)),
    )
    for known, pairs in tuple(_kept):
        same = len(known) == len(made_from) and known[0] == made_from[0]
        if same and all(a is b for a, b in zip(known[1:], made_from[1:], strict=True)):
            return pairs
    found = _found(resolved)
    _kept[:] = [(made_from, found)]
    return found


def _found(resolved: Resolved) -> tuple[SlabPair, ...]:
    document = resolved.document
    pieces = one_piece_sets(document)
    exempt, meshing = _exempt_pieces(document), _meshing_slabs(resolved)
    found: list[SlabPair] = []
    size = 0
    for i, first in enumerate(document.bodies):
        for j in range(i + 1, len(document.bodies)):
            second = document.bodies[j]
            if pieces[first.id] == pieces[second.id] or first.plane != second.plane:
                continue
            for a in resolved.part_of(first).slabs:
                for b in resolved.part_of(second).slabs:
                    still_wanted()
                    low = max(resolved.heights[i] + a.bottom, resolved.heights[j] + b.bottom)
                    high = min(resolved.heights[i] + a.top, resolved.heights[j] + b.top)
                    if high - low <= TOUCHING_FACES:
                        continue
                    if (first.id, a.id, second.id, b.id) in meshing:
                        lugs = meshing[first.id, a.id, second.id, b.id].lugs(a, b)
                        if lugs.any():
                            found.append(SlabPair(i, j, a, b, lugs, True))
                        continue
                    size += len(a.region.ring) * len(b.region.ring) + OWN_SIZE
                    if size > MOST_SIZE:
                        raise _too_much_to_compare(first, second)
                    named = exempt.get((first.id, second.id), [])
                    compared, enclosed = _compared(a, b, named)
                    if compared.any():
                        found.append(SlabPair(i, j, a, b, compared, enclosed))
    return tuple(found)


def _too_much_to_compare(first: model.Body, second: model.Body) -> ValueOutOfRangeError:
    return ValueOutOfRangeError(
        f"comparing all outlines that share heights would take more than {MOST_SIZE // 10**6} MB.",
        where=f"bodies '{first.title}' and '{second.title}'",
        remedy="Put bodies at heights of their own, or draw their outlines with fewer corners.",
    )


PiecePair = tuple[model.OutlinePiece, model.OutlinePiece]


def _exempt_pieces(document: model.Document) -> dict[tuple[str, str], list[PiecePair]]:
    exempt: dict[tuple[str, str], list[PiecePair]] = {}
    for joint in document.joints:
        for p in joint.first.pieces:
            for q in joint.second.pieces:
                bodies = (joint.first.body, joint.second.body)
                exempt.setdefault(bodies, []).append((p, q))
                exempt.setdefault((bodies[1], bodies[0]), []).append((q, p))
    return exempt


@dataclass(frozen=True, slots=True)
class _Mesh:
    """Two toothed slabs in mesh: their middles (mm, in their parts), and the radii that their teeth
    do not pass, outwards, or inwards for a ring (below zero); infinite where that is not known."""

    middles: tuple[tuple[float, float], tuple[float, float]]
    ends: tuple[float, float]

    @property
    def turned(self) -> _Mesh:
        """Seen from the other."""
        return _Mesh(self.middles[::-1], self.ends[::-1])

    def lugs(self, a: SolidSlab, b: SolidSlab) -> npt.NDArray[np.bool_]:
        """(E1, E2) edge pairs that are no teeth in mesh: lugs and arms beyond either's teeth."""
        one, two = (
            self._beyond(slab.region, middle, end)
            for slab, middle, end in zip((a, b), self.middles, self.ends, strict=True)
        )
        return np.asarray(one[:, None] | two[None, :])

    @staticmethod
    def _beyond(region: Region, middle: tuple[float, float], end: float) -> npt.NDArray[np.bool_]:
        edges = region.edges
        far = [
            np.hypot(*(points - middle).T) for points in (edges.start, edges.end, edges.middles())
        ]
        if end > 0:
            return np.asarray(np.max(far, axis=0) > end)
        # Of a ring only what its hole holds can come to the wheel in it.
        return np.asarray((np.min(far, axis=0) < -end) & (region.ring > 0))


TEETH = 1.6
"""Modules that teeth, their profile shift included, reach from the pitch circle at most."""


def _meshing_slabs(resolved: Resolved) -> dict[tuple[str, str, str, str], _Mesh]:
    """Slabs that a coupling keeps in mesh, (body, slab, body, slab) both ways round.

    Teeth in mesh are no clearance, and a bore lies behind the teeth of its wheel; what reaches
    beyond the teeth is compared all the same.
    """
    document = resolved.document
    meshing: dict[tuple[str, str, str, str], _Mesh] = {}
    if not document.couplings:
        return meshing
    axles = Axles(resolved)
    for coupling, values in zip(document.couplings, resolved.couplings, strict=True):
        first, second = wheels_of(document.bodies, document.joints, coupling)
        mesh = _mesh(resolved, axles, coupling, values, first, second)
        for p in coupling.first_pieces:
            for q in coupling.second_pieces:
                meshing[first, p.slab, second, q.slab] = mesh
                meshing[second, q.slab, first, p.slab] = mesh.turned
    return meshing


def _mesh(
    resolved: Resolved,
    axles: Axles,
    coupling: model.Coupling,
    values: CouplingValues,
    first: str,
    second: str,
) -> _Mesh:
    document = resolved.document
    sides, middles = [], []
    for body, joint_id in ((first, coupling.first), (second, coupling.second)):
        joint = document.joint(joint_id)
        sides.append(joint.first if joint.first.body == body else joint.second)
        x, y, _ = resolved.part_of(document.body(body)).places[sides[-1].place]
        middles.append((x, y))
    ends = (math.inf, math.inf)
    spec = coupling_spec(coupling.kind)
    if spec.meshes and spec.couples is Couples.TURNS:
        apart = axles.apart(sides[0], sides[1])
        one, two, inner = values.first, values.second, spec.ring
        module = 2 * apart / abs(two - one if inner else one + two)
        ends = (module * (one / 2 + TEETH), module * (two / 2 + TEETH))
        if inner:
            ring = -module * (max(one, two) / 2 - TEETH)
            ends = (ring, ends[1]) if one > two else (ends[0], ring)
    return _Mesh((middles[0], middles[1]), ends)


@lru_cache(maxsize=256)
def _all_of(edges: int, others: int) -> npt.NDArray[np.bool_]:
    """(E1, E2) all edge pairs, the same for all slabs with as many: what is alike can be measured
    at once."""
    out = np.ones((edges, others), dtype=bool)
    out.flags.writeable = False
    return out


def _compared(
    a: SolidSlab, b: SolidSlab, named: list[PiecePair]
) -> tuple[npt.NDArray[np.bool_], bool]:
    compared = _all_of(len(a.region.ring), len(b.region.ring))
    enclosed = False
    for p, q in named:
        if p.slab != a.id or q.slab != b.id:
            continue
        enclosed = True
        compared = compared & ~np.outer(edges_of(a.region, p), edges_of(b.region, q))
        # What rides on a whole rim would have to pass through it to reach the holes behind.
        whole = p.hole is None and q.hole is None and p.edges is None and q.edges is None
        if whole:
            compared &= np.outer(a.region.ring == 0, b.region.ring == 0)
        # A pin in its hole sees the rest of that hole, and nothing beyond the hole's wall.
        if p.hole is None and q.hole is not None:
            compared &= (b.region.ring == ring_of(b.region, q))[None, :]
        if q.hole is None and p.hole is not None:
            compared &= (a.region.ring == ring_of(a.region, p))[:, None]
    return compared, enclosed
