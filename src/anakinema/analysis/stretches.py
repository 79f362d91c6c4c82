"""Stretches of progress: joined, and where a gap is below what is asked."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from anakinema.geometry.contour import Floats

Span = tuple[float, float]
SPLIT = 6
"""Pieces of a stretch that is looked at more closely."""
FEW = 2
"""Stretches whose pieces are split again at once: to look at so many takes hardly longer than to
look at fewer, and spares another look."""


def spans_around(progress: Floats, half: Floats) -> list[Span]:
    """A stretch around each progress (N,), ``half`` (N,) to both sides."""
    return [(float(p - h), float(p + h)) for p, h in zip(progress, half, strict=True)]


def pieces_of(count: int) -> int:
    """Into how many pieces each of so many stretches is split."""
    return SPLIT**2 if count <= FEW else SPLIT


def in_pieces(
    progress: Floats, half: Floats, pieces: int, low: float, high: float
) -> tuple[Floats, Floats]:
    """Middles and halves (N * pieces,) of the pieces of stretches (N,), those kept within
    bounds."""
    offsets = (2 * np.arange(pieces) + 1) / pieces - 1
    middles = progress[:, None] + half[:, None] * offsets
    return np.clip(middles.ravel(), low, high), np.repeat(half / pieces, pieces)


def joined_spans(spans: list[Span]) -> tuple[Span, ...]:
    """In order, those that touch or overlap made one."""
    out: list[Span] = []
    for low, high in sorted(spans):
        if out and low <= out[-1][1] + 1e-9:
            out[-1] = (out[-1][0], max(out[-1][1], high))
        else:
            out.append((low, high))
    return tuple(out)


def spans_below(
    progress: Floats, gaps: Floats, threshold: float, again: Callable[[Floats], Floats]
) -> list[Span]:
    """Where a gap, known (N,) mm at some progress (N,), is below a threshold or an overlap.

    The ends are located by measuring ``again``.
    """
    threshold = max(threshold, 0.0)
    order = np.argsort(progress)
    p, gaps = progress[order], gaps[order]
    low = gaps < threshold if threshold > 0 else gaps <= 0.0
    if not low.any():
        return []
    change = np.flatnonzero(low[1:] != low[:-1])
    ends = _passings(
        (p[change], p[change + 1]), (gaps[change], gaps[change + 1]), low[change], threshold, again
    )
    bounds = [float(p[0])] if low[0] else []
    bounds += ends.tolist()
    bounds += [float(p[-1])] if low[-1] else []
    return list(zip(bounds[::2], bounds[1::2], strict=True))


def _passings(
    between: tuple[Floats, Floats],
    gaps: tuple[Floats, Floats],
    starts_below: npt.NDArray[np.bool_],
    threshold: float,
    again: Callable[[Floats], Floats],
) -> Floats:
    """Where the gap passes the threshold between two progress (N,) each.

    Regula falsi (Anderson-Björck variant) where the gap is known on both sides, halving
    where one side is an overlap, whose depth says nothing about where it began.
    """

    def excess(gap: Floats) -> Floats:
        return np.where(gap > 0.0, gap - threshold, -np.inf)

    a, b = between
    value_a, value_b = excess(gaps[0]), excess(gaps[1])
    guess = a
    for _ in range(50 if len(a) else 0):
        middle = (a + b) / 2
        with np.errstate(invalid="ignore"):
            falsi = (a * value_b - b * value_a) / (value_b - value_a)
        guess = np.where(np.isfinite(falsi) & (falsi > a) & (falsi < b), falsi, middle)
        value = excess(again(guess))
        same = (value < 0.0) == starts_below
        with np.errstate(invalid="ignore", divide="ignore"):
            shrink = 1.0 - value / np.where(same, value_a, value_b)
        shrink = np.where(np.isfinite(shrink) & (shrink > 0.0), shrink, 0.5)
        value_b = np.where(same, value_b * shrink, value)
        value_a = np.where(same, value, value_a * shrink)
        a, b = np.where(same, guess, a), np.where(same, b, guess)
        if float(np.minimum((b - a) * 1e3, np.abs(value)).max()) < 1e-6:
            break
    return np.asarray(guess)
