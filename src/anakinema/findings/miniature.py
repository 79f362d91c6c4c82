"""A mechanism shown small: how it moves, without any judgement."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anakinema.document.model import Document
from anakinema.document.resolve import Resolved, resolve
from anakinema.errors import AssemblyError
from anakinema.geometry.contour import Floats
from anakinema.mechanism.compile import compile_mechanism
from anakinema.motion.events import stopped_at_limits
from anakinema.motion.sweep import sweep
from anakinema.wanted import doing

FRAMES = 96


@dataclass(frozen=True, eq=False)
class Miniature:
    """Poses (N, B, 3) in mm, mm, rad at even times over ``seconds``; one pose if nothing moves."""

    resolved: Resolved
    poses: Floats
    seconds: float


def small(document: Document) -> Miniature:
    """How a document moves from begin to end, in even steps of time.

    As drawn if it cannot be assembled. Raises an `AnakinemaError` if the document is faulty.
    """
    doing("drawing it small")
    resolved = resolve(document)
    try:
        whole = sweep(compile_mechanism(resolved))
    except AssemblyError:
        return Miniature(resolved, resolved.poses[None], 0.0)
    motion = stopped_at_limits(whole, run_past=document.program.past_limits)
    times = motion.time(motion.progress)
    seconds = float(times[-1])
    if not motion.segments or not seconds > 0 or not np.isfinite(seconds):
        return Miniature(resolved, motion.poses[:1], 0.0)
    progress = np.interp(np.linspace(0.0, seconds, FRAMES), times, motion.progress)
    return Miniature(resolved, motion.poses_at(progress), seconds)
