"""Where along a bridge the equations are singular, and which loops could turn off there."""

from __future__ import annotations

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.solve import null_space, sparse_basis
from anakinema.motion.branch_path import Path
from anakinema.motion.bridge import Bridge, ChangePoint

LOOKS = 42
"""Places along a bridge at which its equations are looked at."""
SINGULAR = 1e-6
"""Share of its slope below which a singular value at a root is zero."""
SAME = 1e-6
"""Share of half a bridge by which two roots are one: they are hardly known better."""
BESIDE = 1e-4
"""Share of half a bridge beside a change point at which its loops are told apart."""
STRESSED = 1e-2
"""Share of the greatest stress that counts as stress there."""


def change_points(path: Path, bridge: Bridge) -> tuple[ChangePoint, ...]:
    """All progress at which the equations are singular along a bridge, and who could turn off.

    At looks close together the singular values that may vanish nearby form a small matrix S; the
    roots of S + x S' are where they do, each for itself, so that several at one place are found
    as well as one.
    """
    along = _Along(path, bridge)
    looks = np.linspace(-1.0, 1.0, LOOKS)
    reach = float(looks[1] - looks[0])
    values = np.linalg.svd(along.matrices(looks), compute_uv=False)
    # Each for itself: beside a loop that hardly feels its change point others fall much faster.
    falls = np.abs(np.diff(values, axis=0)).max(axis=0)
    raw = [
        root
        for look in looks[(values <= 4 * falls + 1e-9).any(axis=1)]
        for root in along.roots(float(look), reach)[0]
        if abs(root - look) <= 2 * reach and abs(root) <= 1.0
    ]
    found: list[tuple[float, int]] = []
    for root in _ends_of_clusters(sorted(raw), reach / 4):
        exact = along.polished(root, reach)
        if exact is None or abs(exact[0]) > 1.0:
            continue
        if all(abs(exact[0] - other) > SAME for other, _ in found):
            found.append(exact)
    return tuple(
        ChangePoint(
            bridge.begin + bridge.half * (1.0 + x),
            _loops(path, along.matrices(np.array([x + BESIDE]))[0], count),
        )
        for x, count in sorted(found)
    )


def staying_free(path: Path, poses: Floats, first: Floats) -> Floats:
    """(n, k) directions free at a pose that stay so along a branch of rates ``first`` (n,).

    Those of no singular value that rises: with u, v all null vectors, u.(dM/ds).v is nothing.
    """
    system, size = path.system, path.system.mechanism.size
    zero = np.zeros(system.rows)
    jacobian = system.residual_jacobian(poses, zero)[1]
    free, stressed = null_space(jacobian), null_space(jacobian.T)
    if not stressed.shape[1]:
        return free
    step = 1e-5 * size * first / float(np.linalg.norm(first))
    after, before = (
        system.residual_jacobian(system.moved(poses, sign * step), zero)[1] for sign in (1.0, -1.0)
    )
    rises = stressed.T @ (after - before) @ free / 2e-5
    return np.asarray(free @ null_space(rises))


class _Along:
    """The equations along a bridge, by x from -1 to 1."""

    def __init__(self, path: Path, bridge: Bridge) -> None:
        self.system, self.bridge = path.system, bridge

    def matrices(self, x: Floats) -> Floats:
        """(N, R, n) derivatives by the coordinates at x (N,)."""
        progress = self.bridge.begin + self.bridge.half * (1.0 + x)
        poses, _, _ = self.bridge.states(self.system, progress)
        return self.system.residual_jacobian(poses, np.zeros((len(x), self.system.rows)))[1]

    def roots(self, x: float, reach: float) -> tuple[list[float], int]:
        """Roots near x, and how many directions are free at x itself."""
        here, before, after = self.matrices(np.array([x, x - 1e-5, x + 1e-5]))
        left, singular, right = np.linalg.svd(here, full_matrices=False)
        change = left.T @ ((after - before) / 2e-5) @ right.T
        slopes = np.abs(np.diag(change))
        small = np.flatnonzero(singular < 3 * reach * slopes + 1e-12)
        if not len(small):
            return [], 0
        try:
            shifts = np.linalg.eigvals(
                -np.linalg.solve(change[np.ix_(small, small)], np.diag(singular[small]))
            )
        except np.linalg.LinAlgError:
            return [], 0
        free = int(np.count_nonzero(singular < SINGULAR * float(slopes[small].max()) + 1e-13))
        return [x + float(s.real) for s in shifts if abs(s.imag) < 0.1 * abs(s) + 1e-9], free

    def polished(self, root: float, reach: float) -> tuple[float, int] | None:
        """A root found to the end, and how many directions are free there."""
        for _ in range(8):
            roots, _ = self.roots(root, reach)
            if not roots:
                return None
            better = min(roots, key=lambda r: abs(r - root))
            moved, root = abs(better - root), better
            if moved < 1e-11:
                break
        free = self.roots(root, reach)[1]
        return (root, free) if free else None


def _ends_of_clusters(places: list[float], apart: float) -> list[float]:
    """The first and the last of every cluster of sorted places."""
    out: list[float] = []
    for k, place in enumerate(places):
        first = k == 0 or place - places[k - 1] > apart
        last = k + 1 == len(places) or places[k + 1] - place > apart
        out += [place] if first or last else []
    return out


def _loops(path: Path, jacobian: Floats, count: int) -> tuple[tuple[int, ...], ...]:
    """The bodies of the ``count`` loops that are singular next to a pose with a Jacobian (R, n).

    A loop whose links are in line can be under stress without any load; the rows with stress
    tell the joints, those the bodies. Loops share what hangs on the frame, so the joints between
    bodies that move tell them apart.
    """
    mechanism = path.system.mechanism
    left, _, _ = np.linalg.svd(jacobian, full_matrices=False)
    joint_of = [path.system.joint_of_row(row) for row in range(len(left))]
    first, second = mechanism.table.first, mechanism.table.second
    between = [
        k
        for k, j in enumerate(joint_of)
        if j is not None and not (mechanism.fixed[first[j]] or mechanism.fixed[second[j]])
    ]
    own = left[between, -count:]
    tells = len(between) >= count and np.linalg.svd(own, compute_uv=False)[-1] > STRESSED
    rows_of = between if tells else list(range(len(left)))
    found = []
    for stress in sparse_basis(left[rows_of, -count:]).T:
        rows = np.flatnonzero(np.abs(stress) > STRESSED * np.abs(stress).max())
        joints = [j for row in rows if (j := joint_of[rows_of[int(row)]]) is not None]
        ends = np.concatenate([mechanism.table.first[joints], mechanism.table.second[joints]])
        found.append(tuple(sorted({int(b) for b in ends if not mechanism.fixed[b]})))
    return tuple(dict.fromkeys(found))
