"""Which freedoms a mechanism really has: rank at assembled poses, followed a finite step.

A freedom that shows at one special pose but cannot be followed a finite distance is shake, not
motion; a freedom that only vanishes or appears at a change point is told apart by looking at
nearby assembled poses. Source of the count by hand: Grübler's formula, M = 3(L-1) - 2 J1 - J2.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.mechanism.frames import frames
from anakinema.mechanism.solve import SURELY, null_space, sparse_basis
from anakinema.mechanism.system import Hold, System
from anakinema.mechanism.touch import Touch
from anakinema.motion.assemble import close
from anakinema.motion.branch_path import Path
from anakinema.motion.crossing import directions
from anakinema.wanted import still_wanted

MOST_WAYS = 24
"""Freedoms at a pose of which ways are tried one by one; of more, these and mixes of all."""
REACHED = 1e-6
"""A share of what a freedom moves that a hold must be moved by it."""
FOLLOWED = 0.01
"""Share of the characteristic size that a freedom must be followed."""


@dataclass(frozen=True, slots=True)
class Freedom:
    """One freedom: which bodies move in it, and how ('turn', 'slide' or 'move').

    ``idle_spin`` marks a body that turns about the one place by which it is joined.
    """

    bodies: tuple[int, ...]
    manner: str
    idle_spin: bool


@dataclass(frozen=True, slots=True)
class Group:
    """Bodies connected by joints, with or without a fixed one."""

    bodies: tuple[int, ...]
    has_frame: bool
    freedoms: int


@dataclass(frozen=True, slots=True, eq=False)
class Mobility:
    """Freedoms of a mechanism at its start pose.

    freedoms : how many motions all joints leave; undriven : those no driver commands;
    repeated : number of conditions that only repeat others, and the joints they are among;
    count_by_formula : Grübler's count, to compare; holds : what keeps the undriven still;
    special_pose : the start pose has more instantaneous freedoms than the motion (change point).
    """

    freedoms: int
    undriven: tuple[Freedom, ...]
    repeated: int
    repeated_joints: tuple[int, ...]
    groups: tuple[Group, ...]
    count_by_formula: int
    holds: tuple[Hold, ...]
    special_pose: bool
    useless_drivers: int


def analyse_mobility(
    mechanism: Mechanism, poses: Floats, drivers: tuple[int, ...], touches: tuple[Touch, ...] = ()
) -> Mobility:
    """Mobility at assembled ``poses`` (B, 3) under drivers on the given joints.

    ``touches`` are contacts that are kept: they bind as joints do.
    """
    driven = System(mechanism, drivers, touches=touches)
    settled = _settled_by_drivers(driven, poses)
    if settled is not None:
        return Mobility(
            freedoms=len(drivers),
            undriven=(),
            repeated=0,
            repeated_joints=(),
            groups=_groups(mechanism, settled),
            count_by_formula=len(drivers),
            holds=(),
            special_pose=False,
            useless_drivers=0,
        )
    joints_only = System(mechanism, touches=touches)
    pose_here, basis, nullity_here = _generic(joints_only, driven, poses)
    jacobian = _jacobian(driven, pose_here)
    idle = np.zeros((mechanism.unknowns, 0))
    if basis.shape[1]:
        # Without drivers all are left, as they were found.
        idle = null_space(jacobian) if drivers else basis
        if drivers and basis.shape[1] < null_space(_jacobian(joints_only, pose_here)).shape[1]:
            idle = idle[:, :0]
    freedoms = basis.shape[1]
    rows = joints_only.rows
    rank = mechanism.unknowns - freedoms
    repeated = max(0, rows - rank)
    undriven = _name_freedoms(mechanism, pose_here, idle)
    return Mobility(
        freedoms=freedoms,
        undriven=undriven,
        repeated=repeated,
        repeated_joints=_repeated_joints(joints_only, pose_here) if repeated else (),
        groups=_groups(mechanism, basis),
        count_by_formula=mechanism.unknowns - rows,
        holds=choose_holds(mechanism, pose_here, idle),
        special_pose=nullity_here > freedoms,
        useless_drivers=max(0, len(drivers) - (freedoms - idle.shape[1])),
    )


def holds_at(mechanism: Mechanism, poses: Floats, drivers: tuple[int, ...]) -> tuple[Hold, ...]:
    """What `analyse_mobility` would keep still at assembled ``poses`` (B, 3), no contacts kept."""
    driven = System(mechanism, drivers)
    if (
        _settled_by_drivers(driven, poses) is not None
        or null_space(_jacobian(driven, poses)).shape[1] == 0
    ):
        # What the drivers settle here they settle nearby.
        return ()
    return analyse_mobility(mechanism, poses, drivers).holds


def _settled_by_drivers(driven: System, poses: Floats) -> Floats | None:
    """The freedoms (n, k), an orthonormal basis, where the drivers command just these and no
    condition repeats another: their equations then have an inverse. None where that is not sure.

    The smallest singular value is no smaller than the inverse of that inverse's norm.
    """
    if driven.rows != driven.unknowns or not driven.rows:
        return None
    jacobian = _jacobian(driven, poses)
    inverse = driven.inverses(jacobian[None])[0]
    size = max(1.0, float(np.linalg.norm(jacobian)))
    if not float(np.linalg.norm(inverse)) * size * SURELY < 1.0:
        return None
    return np.asarray(np.linalg.qr(inverse[:, driven.driver_rows])[0])


def _jacobian(system: System, poses: Floats) -> Floats:
    return system.residual_jacobian(poses, np.zeros(system.rows))[1]


def _generic(system: System, driven: System, poses: Floats) -> tuple[Floats, Floats, int]:
    """A nearby assembled pose of least nullity, its freedoms (n, k), and the nullity here.

    Of several that where the drivers leave least free: at a change point there may be ways that
    no driver commands.
    """
    here = null_space(_jacobian(system, poses))
    nullity = here.shape[1]
    if nullity == max(0, system.unknowns - system.rows):
        # No condition repeats another, so none can here that does not elsewhere: freedoms are what
        # is left over, and each can be followed (implicit function theorem).
        return poses, here, nullity
    step = FOLLOWED * system.mechanism.size
    random = np.random.default_rng(nullity)
    few = min(nullity, MOST_WAYS)
    mixes = [*np.eye(few, nullity), *(random.standard_normal((2 * few, nullity)))]
    ways = [here @ (mix / np.linalg.norm(mix)) for mix in mixes]
    best: tuple[int, int, Floats, Floats] | None = None
    targets = system.at_rest
    for direction in [*_driven_ways(driven, poses), *ways]:
        for sign in (1.0, -1.0):
            closure = close(system, system.moved(poses, sign * step * direction), targets)
            if not closure.is_closed:
                continue
            if _travelled(system, poses, closure.poses) < step / 4:
                continue
            there = null_space(_jacobian(system, closure.poses))
            idle = null_space(_jacobian(driven, closure.poses))
            counts = there.shape[1], idle.shape[1]
            if best is None or counts < best[:2]:
                best = (*counts, closure.poses, there)
        if nullity == 1 and best is not None and best[0] == nullity:
            break
    if best is None:
        return poses, np.zeros((system.unknowns, 0)), nullity
    return (poses, here, nullity) if best[0] == nullity else (best[2], best[3], nullity)


def _driven_ways(driven: System, poses: Floats) -> list[Floats]:
    """Unit directions (n,) of all ways that a driver can move a mechanism at a change point."""
    mechanism, count = driven.mechanism, len(driven.drivers)
    values = mechanism.values(poses)[list(driven.drivers)]
    found = []
    for turn in np.eye(count):
        path = Path(driven, values, values + turn, poses)
        found += [way / np.linalg.norm(way) for way in directions(path, poses)]
    return found


def _travelled(system: System, poses: Floats, others: Floats) -> float:
    difference = (others - poses) * np.array([1.0, 1.0, system.mechanism.size])
    return float(np.linalg.norm(difference))


def _repeated_joints(system: System, poses: Floats) -> tuple[int, ...]:
    left = null_space(_jacobian(system, poses).T)
    weight = np.abs(left).max(axis=1) if left.shape[1] else np.zeros(system.rows)
    joints = {system.joint_of_row(int(row)) for row in np.flatnonzero(weight > 1e-6)}
    return tuple(sorted(j for j in joints if j is not None))


def _groups(mechanism: Mechanism, basis: Floats) -> tuple[Group, ...]:
    import networkx as nx  # slow to import, so not at start

    graph: nx.Graph[int] = nx.Graph()
    moving = np.flatnonzero(~mechanism.fixed)
    graph.add_nodes_from(moving.tolist())
    grounded = set()
    for a, b in zip(mechanism.table.first.tolist(), mechanism.table.second.tolist(), strict=True):
        if mechanism.fixed[a] or mechanism.fixed[b]:
            grounded |= {a, b}
        if not mechanism.fixed[a] and not mechanism.fixed[b]:
            graph.add_edge(a, b)
    for run in mechanism.runs:
        if not mechanism.fixed[run.first] and not mechanism.fixed[run.second]:
            graph.add_edge(run.first, run.second)
    for coupled in mechanism.coupled:
        joints = [joint for joint, _, _ in coupled.terms]
        ends = {
            int(side[j]) for j in joints for side in (mechanism.table.first, mechanism.table.second)
        }
        held = [body for body in ends if not mechanism.fixed[body]]
        graph.add_edges_from(zip(held, held[1:], strict=False))
    groups = []
    for component in nx.connected_components(graph):
        bodies = tuple(sorted(component))
        columns = (mechanism.column[list(bodies)][:, None] + np.arange(3)).ravel()
        part = basis[columns]
        # All freedoms of all bodies are of full rank.
        whole = len(bodies) == len(moving)
        count = part.shape[1] if whole else _rank(part)
        groups.append(Group(bodies, bool(grounded & set(bodies)), count))
    return tuple(groups)


def _rank(part: Floats) -> int:
    return int(np.linalg.matrix_rank(part, tol=1e-6)) if part.size else 0


def _name_freedoms(mechanism: Mechanism, poses: Floats, idle: Floats) -> tuple[Freedom, ...]:
    """Split the undriven freedoms so that each moves as few bodies as possible."""
    if idle.shape[1] == 0:
        return ()
    reduced = sparse_basis(idle)
    joints_at = np.bincount(
        np.concatenate([mechanism.table.first, mechanism.table.second]),
        minlength=len(mechanism.fixed),
    )
    named = []
    system = System(mechanism)
    for k in range(reduced.shape[1]):
        still_wanted()
        rates = system.scaled_rates(reduced[:, k])
        scale = np.array([1.0, 1.0, mechanism.size])
        amount = np.linalg.norm(rates * scale, axis=1)
        bodies = tuple(np.flatnonzero(amount > 1e-6 * amount.max()).tolist())
        spins = np.abs(rates[list(bodies), 2]) * mechanism.size > 1e-6 * amount.max()
        pinned = _spins_in_place(mechanism, poses, rates, bodies[0])
        manner = "turn" if spins.all() else "slide" if not spins.any() else "move"
        if not joints_at[list(bodies)].any():
            manner = "move"
        named.append(Freedom(bodies, manner, len(bodies) == 1 and pinned and bool(spins.all())))
    return tuple(named)


def _spins_in_place(mechanism: Mechanism, poses: Floats, rates: Floats, body: int) -> bool:
    """Whether all places by which a body is joined stand still while it turns."""
    table, at = mechanism.table, frames(mechanism.table, poses)
    arms = [*at.first_arm[table.first == body], *at.second_arm[table.second == body]]
    vx, vy, turn = rates[body]
    speeds = [np.hypot(vx - turn * arm[1], vy + turn * arm[0]) for arm in arms]
    return bool(arms) and max(speeds) < 1e-6 * abs(turn) * mechanism.size


def choose_holds(mechanism: Mechanism, poses: Floats, idle: Floats) -> tuple[Hold, ...]:
    """Quantities to keep still so that exactly the undriven freedoms (n, k) are held.

    Preferred in this order: values of sliding joints, angles of bodies, places of bodies. A
    free part then keeps its slide or its attitude; of two as good, the better conditioned.
    """
    if not idle.shape[1]:
        return ()
    candidates, preference, reach = _hold_candidates(mechanism, poses, idle)
    # Squares of how much each is moved by the freedoms that are left; a hold takes one away.
    left = np.einsum("ij,ij->i", reach, reach)
    taken = np.empty((idle.shape[1], idle.shape[1]))
    chosen: list[Hold] = []
    for k in range(idle.shape[1]):
        still_wanted()
        strength = np.sqrt(np.maximum(left, 0.0))
        # Of those as good but for rounding the first.
        worth = np.where(strength > REACHED, np.round(strength * preference, 9), 0.0)
        best = int(np.argmax(worth))
        if worth[best] == 0.0:
            break
        chosen.append(candidates[best])
        direction = reach[best]
        for _ in range(2):
            direction = direction - (taken[:k] @ direction) @ taken[:k]
        taken[k] = direction / np.linalg.norm(direction)
        left -= (reach @ taken[k]) ** 2
    return tuple(chosen)


def _hold_candidates(
    mechanism: Mechanism, poses: Floats, idle: Floats
) -> tuple[list[Hold], Floats, Floats]:
    """What could be kept still, C of it, how much that is preferred (C,), and how fast each of the
    freedoms (n, k) changes it (C, k), for each unit of what the unknowns can do to it."""
    sliding = tuple(int(j) for j in np.flatnonzero(~mechanism.angular))
    system = System(mechanism, sliding)
    first = len(mechanism.row_kernel)
    slides = _jacobian(system, poses)[first : first + len(sliding)]
    size = np.linalg.norm(slides, axis=1, keepdims=True)
    moving = np.flatnonzero(~mechanism.fixed)
    holds = [Hold("value", j) for j in sliding]
    holds += [Hold(kind, b) for b in moving.tolist() for kind in ("x", "y", "angle")]
    preference = np.concatenate([np.full(len(sliding), 8.0), np.tile([1.0, 1.0, 4.0], len(moving))])
    columns = (mechanism.column[moving][:, None] + np.arange(3)).ravel()
    reach = np.concatenate([slides @ idle / np.where(size > 0.0, size, 1.0), idle[columns]])
    return holds, preference, reach
