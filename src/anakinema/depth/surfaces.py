"""Triangles with normals, and edges that may be inked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Singles = npt.NDArray[np.float32]
Numbers = npt.NDArray[np.uint32]


@dataclass(frozen=True, slots=True, eq=False)
class Faces:
    """Triangles: ``at`` and ``normal`` (V, 3), ``body`` (V,) which each belongs to, ``corners``
    (T, 3) anticlockwise seen from outside."""

    at: Singles
    normal: Singles
    body: Numbers
    corners: Numbers


@dataclass(frozen=True, slots=True, eq=False)
class Edges:
    """Lines that may be inked: ``start`` and ``end`` (E, 3) mm, ``left`` and ``right`` (E, 3)
    normals of the faces that meet there, ``sharp`` (E,) whether at an angle, ``body`` (E,)."""

    start: Singles
    end: Singles
    left: Singles
    right: Singles
    sharp: Singles
    body: Numbers


def joined_faces(some: Sequence[Faces]) -> Faces:
    """All of them in one."""
    if not some:
        none = np.zeros((0, 3), dtype=np.float32)
        return Faces(none, none, np.zeros(0, np.uint32), np.zeros((0, 3), np.uint32))
    first = np.cumsum([0, *(len(each.at) for each in some[:-1])])
    return Faces(
        np.concatenate([each.at for each in some]),
        np.concatenate([each.normal for each in some]),
        np.concatenate([each.body for each in some]),
        np.concatenate([each.corners + np.uint32(k) for each, k in zip(some, first, strict=True)]),
    )


def joined_edges(some: Sequence[Edges]) -> Edges:
    """All of them in one."""
    if not some:
        none, few = np.zeros((0, 3), dtype=np.float32), np.zeros(0, np.float32)
        return Edges(none, none, none, none, few, np.zeros(0, np.uint32))
    return Edges(
        *(
            np.concatenate([getattr(each, name) for each in some])
            for name in ("start", "end", "left", "right", "sharp", "body")
        )
    )
