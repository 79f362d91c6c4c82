"""The chain map: bodies as nodes, joints as edges, laid out so that chains read from the frame."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.body_graph import body_graph, steps_from
from anakinema.findings.evaluate import Evaluation

SWEEPS = 6


@dataclass(frozen=True, slots=True)
class Node:
    """A body at x, y in 0 to 1 (y up); ``is_free`` if no driver commands all of its motion."""

    body: str
    title: str
    colour: model.Colour
    x: float
    y: float
    is_fixed: bool
    is_free: bool


@dataclass(frozen=True, slots=True)
class Edge:
    """A joint between two nodes (indices). ``lane`` tells parallel edges apart: 0, 1, -1, ..."""

    joint: str
    title: str
    kind: model.JointKind
    first: int
    second: int
    lane: int
    is_driven: bool


@dataclass(frozen=True, slots=True)
class ChainMap:
    """All bodies and joints of a flat document."""

    nodes: tuple[Node, ...]
    edges: tuple[Edge, ...]
    rows: int


def chain_map(document: model.Document, evaluation: Evaluation | None) -> ChainMap:
    """Lay out a flat document: the frame below, every body as high as it is joints away from it.

    Within a row, bodies stand near those they are joined to (barycentre ordering, after
    K. Sugiyama et al., IEEE Trans. SMC 11, 1981, from memory). ``evaluation``, if it is of this
    document, tells which bodies are free.
    """
    bodies = document.bodies
    index = {body.id: i for i, body in enumerate(bodies)}
    near: list[set[int]] = [set() for _ in bodies]
    for joint in document.joints:
        a, b = index[joint.first.body], index[joint.second.body]
        near[a].add(b)
        near[b].add(a)
    graph = body_graph(bodies, document.joints)
    away = steps_from(graph, [body.id for body in bodies if body.fixed])
    rows = _rows(len(bodies), {index[body]: steps for body, steps in away.items()})
    places = _ordered(rows, near)
    free: set[int] = set()
    if evaluation is not None and evaluation.document is document:
        for freedom in evaluation.followed.mobility.undriven:
            free |= set(freedom.bodies)
    colours = {part.id: part.colour for part in document.parts}
    height = max(len(rows) - 1, 1)
    nodes = []
    for i, body in enumerate(bodies):
        row, place = places[i]
        x = (place + 0.5) / max(len(rows[row]), 1)
        nodes.append(
            Node(
                body.id,
                body.title,
                colours.get(body.part, "blue"),
                x,
                row / height,
                body.fixed,
                i in free,
            )
        )
    driven = {driver.joint for driver in document.program.drivers}
    lanes: dict[tuple[int, int], int] = {}
    edges = []
    for joint in document.joints:
        a, b = index[joint.first.body], index[joint.second.body]
        pair = (min(a, b), max(a, b))
        used = lanes.get(pair, 0)
        lanes[pair] = used + 1
        lane = (used + 1) // 2 * (1 if used % 2 else -1)
        edges.append(Edge(joint.id, joint.title, joint.kind, a, b, lane, joint.id in driven))
    return ChainMap(tuple(nodes), tuple(edges), len(rows))


def _rows(count: int, level: dict[int, int]) -> list[list[int]]:
    """Bodies by their distance from what is fixed; what hangs on nothing goes to the top."""
    top = max(level.values(), default=-1) + 1
    rows: list[list[int]] = [[] for _ in range(top)]
    for body, at in sorted(level.items()):
        rows[at].append(body)
    loose = [i for i in range(count) if i not in level]
    # Four to a row, so that many loose parts stay readable.
    rows += [loose[k : k + 4] for k in range(0, len(loose), 4)]
    return rows


def _ordered(rows: list[list[int]], near: list[set[int]]) -> dict[int, tuple[int, int]]:
    """Row and place in it of every body; rows are put in order of the mean of their neighbours."""

    def middle(body: int, snaps: dict[int, float], at: int) -> float:
        known = [snaps[other] for other in near[body] if other in snaps]
        return sum(known) / len(known) if known else snaps.get(body, float(at))

    def places(row: list[int]) -> dict[int, float]:
        return {body: (place + 0.5) / len(row) for place, body in enumerate(row)}

    snaps = {body: place for row in rows for body, place in places(row).items()}
    for sweep in range(SWEEPS):
        order = range(1, len(rows)) if sweep % 2 == 0 else range(len(rows) - 2, -1, -1)
        for k in order:
            keys = {body: middle(body, snaps, at) for at, body in enumerate(rows[k])}
            rows[k].sort(key=lambda body: keys[body])
            snaps.update(places(rows[k]))
    return {body: (k, place) for k, row in enumerate(rows) for place, body in enumerate(row)}
