"""Which bodies hang on which: one graph for all who ask for ways and groups of bodies."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from anakinema.document import model
from anakinema.document.kinds import spec_of

if TYPE_CHECKING:
    import networkx as nx

STEPS = "steps"
"""Weight of an edge: 1 for a joint, 0 between fixed bodies."""
JOINT = "joint"
"""The first joint of an edge, None between fixed bodies."""


def body_graph(
    bodies: Iterable[model.Body], joints: Iterable[model.Joint], *, grounded: bool = True
) -> nx.Graph[str]:
    """Ids of bodies, with an edge where joints connect two; rods tie them, nothing hangs on a rod.

    ``grounded``: fixed bodies, which never move against each other, are connected too.
    """
    import networkx as nx  # slow to import, so not at start

    bodies = tuple(bodies)
    graph: nx.Graph[str] = nx.Graph()
    graph.add_nodes_from(body.id for body in bodies)
    for joint in joints:
        one, other = joint.first.body, joint.second.body
        if not spec_of(joint.kind).is_rod and not graph.has_edge(one, other):
            graph.add_edge(one, other, **{STEPS: 1, JOINT: joint})
    fixed = [body.id for body in bodies if body.fixed] if grounded else []
    for other in fixed[1:]:
        graph.add_edge(fixed[0], other, **{STEPS: 0, JOINT: None})
    return graph


def steps_from(graph: nx.Graph[str], bodies: Iterable[str]) -> dict[str, int]:
    """By how many joints each body that can be reached is away from the nearest of some."""
    import networkx as nx  # slow to import, so not at start

    starts = set(bodies)
    if not starts:
        return {}
    found = nx.multi_source_dijkstra_path_length(graph, starts, weight=STEPS)
    return {body: round(steps) for body, steps in found.items()}


def group_of(graph: nx.Graph[str], body: str) -> set[str]:
    """All bodies that hang together with one."""
    import networkx as nx  # slow to import, so not at start

    found: set[str] = nx.node_connected_component(graph, body)
    return found


def groups(graph: nx.Graph[str]) -> list[set[str]]:
    """All groups of bodies that hang together."""
    import networkx as nx  # slow to import, so not at start

    return list(nx.connected_components(graph))


def way_between(graph: nx.Graph[str], one: str, other: str) -> list[str]:
    """Bodies on the way of fewest joints from one to another; none if there is no way."""
    import networkx as nx  # slow to import, so not at start

    try:
        way: list[str] = nx.dijkstra_path(graph, one, other, weight=STEPS)
    except (nx.NetworkXNoPath, nx.NodeNotFound):
        return []
    return way


def one_piece_sets(document: model.Document) -> dict[str, int]:
    """By body a number that all have in common that never move against one another: both fixed, or
    held by joints that do not move; what is fixed on a plane, and the body that carries it."""
    rigid = [joint for joint in document.joints if not spec_of(joint.kind).moves]
    graph = body_graph(document.bodies, rigid, grounded=False)
    carrier = {plane.id: plane.on for plane in document.planes}
    stands: str | None = None
    for body in document.bodies:
        if body.fixed:
            under = carrier[body.plane]
            if under is None:
                under = stands = stands or body.id
            graph.add_edge(under, body.id)
    return {body: k for k, group in enumerate(groups(graph)) for body in group}
