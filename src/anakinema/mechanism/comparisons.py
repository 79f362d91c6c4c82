"""What can touch what: pairs of slabs that share heights, less the pieces a joint is made of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anakinema.document import model
from anakinema.document.couplings import wheels_of
from anakinema.document.pieces import edges_of, ring_of
from anakinema.document.resolve import Resolved
from anakinema.document.solids import SolidSlab

TOUCHING_FACES = 1e-9
"""mm; slabs that only share a face do not share heights."""


@dataclass(frozen=True, slots=True, eq=False)
class Comparison:
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


def comparisons(resolved: Resolved) -> tuple[Comparison, ...]:
    """All pairs of slabs on different bodies that can touch while the mechanism moves.

    Bodies that never move against each other (both fixed, or one piece by rigid joints) are
    left out: what is made as one is not a clearance.
    """
    document = resolved.document
    pieces = _one_piece_sets(document)
    exempt, meshing = _exempt_pieces(document), _meshing_slabs(document)
    found: list[Comparison] = []
    for i, first in enumerate(document.bodies):
        for j in range(i + 1, len(document.bodies)):
            second = document.bodies[j]
            if pieces[first.id] == pieces[second.id]:
                continue
            for a in resolved.part_of(first).slabs:
                for b in resolved.part_of(second).slabs:
                    low = max(resolved.heights[i] + a.bottom, resolved.heights[j] + b.bottom)
                    high = min(resolved.heights[i] + a.top, resolved.heights[j] + b.top)
                    if high - low <= TOUCHING_FACES:
                        continue
                    if (first.id, a.id, second.id, b.id) in meshing:
                        continue
                    named = exempt.get((first.id, second.id), [])
                    compared, enclosed = _compared(a, b, named)
                    if compared.any():
                        found.append(Comparison(i, j, a, b, compared, enclosed))
    return tuple(found)


def _one_piece_sets(document: model.Document) -> dict[str, int]:
    import networkx as nx  # slow to import, so not at start

    graph: nx.Graph[str] = nx.Graph()
    graph.add_nodes_from(body.id for body in document.bodies)
    fixed = [body.id for body in document.bodies if body.fixed]
    graph.add_edges_from(zip(fixed, fixed[1:], strict=False))
    graph.add_edges_from(
        (j.first.body, j.second.body) for j in document.joints if j.kind == "rigid"
    )
    return {body: k for k, group in enumerate(nx.connected_components(graph)) for body in group}


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


def _meshing_slabs(document: model.Document) -> set[tuple[str, str, str, str]]:
    """Slabs that a coupling keeps in mesh, (body, slab, body, slab) both ways round.

    All of them: a bore lies behind the teeth of its wheel, so nothing that meshes can reach it.
    """
    meshing: set[tuple[str, str, str, str]] = set()
    for coupling in document.couplings:
        first, second = wheels_of(document.bodies, document.joints, coupling)
        for p in coupling.first_pieces:
            for q in coupling.second_pieces:
                meshing |= {(first, p.slab, second, q.slab), (second, q.slab, first, p.slab)}
    return meshing


def _compared(
    a: SolidSlab, b: SolidSlab, named: list[PiecePair]
) -> tuple[npt.NDArray[np.bool_], bool]:
    compared = np.ones((len(a.region.ring), len(b.region.ring)), dtype=bool)
    enclosed = False
    for p, q in named:
        if p.slab != a.id or q.slab != b.id:
            continue
        enclosed = True
        compared &= ~np.outer(edges_of(a.region, p), edges_of(b.region, q))
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
