"""A first look at a changed mechanism: few poses near the motion before; the exact one follows."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import Mechanism
from anakinema.motion.branch_path import End
from anakinema.motion.events import STOPPING
from anakinema.motion.motion import EventKind, Motion, States
from anakinema.motion.near import CLOSED, Near, near

LOOKS = 36
COARSE = 24
"""Samples from one to the next that a search for gaps looks at first."""
ENOUGH = 0.7
"""Share of the samples that must close."""


def preview(mechanism: Mechanism, earlier: Motion, nearer: Motion | None = None) -> Motion | None:
    """Samples of a motion near an earlier one; None if the two have not the same shape.

    ``nearer``: another one whose samples to begin from, where it has them. Samples that do not
    close are left out; None if many do not.
    """
    stride = max(1, len(earlier.progress) // LOOKS)
    if stride > COARSE / 2:
        # What stands as before may have been seen there already.
        stride = COARSE * round(stride / COARSE)
    last = len(earlier.progress) - 1
    extremes = [e.progress for e in earlier.events if e.kind is EventKind.EXTREME][:LOOKS]
    # What was greatest or least is so near there after a small change.
    near_them = np.minimum(np.searchsorted(earlier.progress, extremes), last)
    rows = np.unique([*range(0, last, stride), last, *near_them.tolist()])
    progress = earlier.progress[rows]
    known = earlier.samples.taken(rows)
    begin = None if nearer is None else _begun(known, nearer.samples)
    found = near(earlier, [mechanism], progress, known=known, begin=begin, within=CLOSED)
    if found is None or found.closed[0].sum() < max(1.0, ENOUGH * len(rows)):
        return None
    return _seen(mechanism, earlier, progress, found)


def _begun(known: States, nearer: States) -> Floats:
    """(N, B, 3) the nearer poses at the progress of known states, where there are any."""
    rows = np.searchsorted(nearer.progress, known.progress)
    rows = np.minimum(rows, len(nearer.progress) - 1)
    same = (nearer.progress[rows] == known.progress)[:, None, None]
    return np.where(same, nearer.poses[rows], known.poses)


def seen_at(
    mechanism: Mechanism, earlier: Motion, progress: Floats, known: States | None = None
) -> Motion | None:
    """Samples at some progress (N,) near an earlier motion, whose states there may be ``known``;
    None unless all of them close."""
    found = near(earlier, [mechanism], progress, known=known, within=CLOSED)
    if found is None or not found.closed[0].all():
        return None
    return _seen(mechanism, earlier, progress, found)


def _seen(mechanism: Mechanism, earlier: Motion, progress: Floats, found: Near) -> Motion:
    """The closed ones of the poses found, as a motion without anything between them."""
    good = found.closed[0]
    poses, values = found.poses[0, good], found.values[0, good]
    nothing, none = np.full_like(poses, np.nan), np.full_like(values, np.nan)
    samples = States(
        progress[good],
        poses,
        nothing,
        nothing,
        values,
        none,
        none,
        float(found.open_by[0, good].max(initial=0.0)),
    )
    return replace(
        earlier,
        mechanism=mechanism,
        segments=(),
        samples=samples,
        reach=np.zeros(len(poses)),
        events=(),
        end=End.COMPLETE if earlier.end in STOPPING.values() else earlier.end,
    )
