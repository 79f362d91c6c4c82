"""What the samples of a motion say about comparisons around them, seen or not."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from anakinema.analysis.comparing import Approaches
from anakinema.geometry.contour import Floats
from anakinema.mechanism.frames import Indices


def circles_apart(moves: Approaches, reach: Floats) -> Floats:
    """(I, N) mm: comparisons stay above this around samples, by the circles round them; -inf where
    speeds are unbounded."""
    return np.where(np.isnan(moves.speed), -np.inf, moves.circles - moves.speed * reach)


def most_approach(speed: Floats, known: Floats, progress: Floats, reach: Floats) -> Floats:
    """(I, N) lower bounds around each sample, from all samples whose gap is ``known`` (I, N).

    Between samples the gap falls by no more than the path, summed along the way.
    """
    steps = np.diff(progress) * np.maximum(speed[:, 1:], speed[:, :-1])
    path = np.concatenate([np.zeros((len(speed), 1)), np.cumsum(steps, axis=1)], axis=1)
    path = np.where(np.isnan(path), np.inf, path)
    with np.errstate(invalid="ignore"):
        from_before = np.fmax.accumulate(known + path, axis=1) - path
        from_after = np.fmax.accumulate((known - path)[:, ::-1], axis=1)[:, ::-1] + path
        bound = np.fmax(from_before, from_after) - speed * reach
    return np.where(np.isnan(bound), -np.inf, bound)


def nearest_known(known: npt.NDArray[np.bool_]) -> Indices:
    """(I, N) the sample nearest to each of those that are ``known`` (I, N); one must be."""
    rows = np.arange(known.shape[1])
    before = np.maximum.accumulate(np.where(known, rows, -len(rows)), axis=1)
    after = np.where(known, rows, 2 * len(rows))[:, ::-1]
    after = np.minimum.accumulate(after, axis=1)[:, ::-1]
    return np.where(rows - before <= after - rows, before, after)
