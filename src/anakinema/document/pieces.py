"""Outline pieces that joints name, as edges of a slab's region."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from anakinema.document import model
from anakinema.geometry.region import Region


def ring_of(region: Region, piece: model.OutlinePiece) -> int:
    """Index of the contour that a piece is of: 0 the outer one."""
    return 0 if piece.hole is None else 1 + region.hole_names.index(piece.hole)


def edges_of(region: Region, piece: model.OutlinePiece) -> npt.NDArray[np.bool_]:
    """(E,) the edges of a region that a piece names."""
    chosen = region.ring == ring_of(region, piece)
    if piece.edges is not None:
        chosen &= np.isin(region.edges.piece, piece.edges)
    return np.asarray(chosen)
