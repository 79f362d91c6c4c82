"""Rods with balls at their ends as triangles, and the lines round them."""

from __future__ import annotations

import math

import numpy as np

from anakinema.depth.surfaces import Edges, Faces, joined_edges, joined_faces
from anakinema.document.rods import RodValues
from anakinema.geometry.contour import Floats

FEWEST, MOST = 12, 48
"""Chords of a circle round a rod or a ball."""


def rod_mesh(rod: RodValues, fine: float) -> tuple[Faces, Edges]:
    """The surface of a rod from the origin along x; ``fine`` mm are chords from arcs."""
    share = min(max(1.0 - fine / rod.ball, -1.0), 1.0)
    count = min(max(math.ceil(math.pi / max(math.acos(share), 1e-3)), FEWEST), MOST)
    count += count % 2
    turn = np.arange(count) * (2 * math.pi / count)
    ring = np.column_stack([np.zeros(count), np.cos(turn), np.sin(turn)])
    reach = math.sqrt(rod.ball**2 - rod.radius**2)
    ends = [np.array([x, 0.0, 0.0]) for x in (reach, rod.length - reach)]
    grids = [([ring * rod.radius + end for end in ends], [ring, ring])]
    for x in (0.0, rod.length):
        tilt = np.linspace(0.0, math.pi, count // 2 + 1)
        normals = [ring * math.sin(t) + np.array([-math.cos(t), 0.0, 0.0]) for t in tilt]
        grids.append(([n * rod.ball + np.array([x, 0.0, 0.0]) for n in normals], normals))
    parts = [_skin(rows, normals) for rows, normals in grids]
    return joined_faces([f for f, _ in parts]), joined_edges([e for _, e in parts])


def _skin(rows: list[Floats], normals: list[Floats]) -> tuple[Faces, Edges]:
    """A skin over rings of points, and its lines, of which only those at its outline are inked."""
    count, rings = len(rows[0]), len(rows)
    at, normal = np.concatenate(rows), np.concatenate(normals)
    k = np.arange(count)
    after = (k + 1) % count
    corners, starts, ends, left, right = [], [], [], [], []
    for n in range(rings - 1):
        a, b = k + n * count, after + n * count
        c, d = b + count, a + count
        corners += [np.column_stack([a, c, b]), np.column_stack([a, d, c])]
        face = normal[a] + normal[b] + normal[c] + normal[d]
        face = face / np.maximum(np.linalg.norm(face, axis=1), 1e-12)[:, None]
        starts.append(at[a])
        ends.append(at[d])
        left.append(np.roll(face, 1, axis=0))
        right.append(face)
        if n + 2 < rings:
            following = normal[d] + normal[c] + normal[d + count] + normal[c + count]
            following = following / np.maximum(np.linalg.norm(following, axis=1), 1e-12)[:, None]
            starts.append(at[d])
            ends.append(at[c])
            left.append(face)
            right.append(following)
    start, end, one, two = (np.concatenate(each) for each in (starts, ends, left, right))
    faces = Faces(
        at.astype(np.float32),
        normal.astype(np.float32),
        np.zeros(len(at), np.uint32),
        np.concatenate(corners).astype(np.uint32),
    )
    return faces, Edges(
        start.astype(np.float32),
        end.astype(np.float32),
        one.astype(np.float32),
        two.astype(np.float32),
        np.zeros(len(start), np.float32),
        np.zeros(len(start), np.uint32),
    )
