"""Values, places of the program and lists, in words."""

from __future__ import annotations

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.findings.evaluate import Evaluation


def progress_words(evaluation: Evaluation, progress: float) -> str:
    """A place on the motion, stated by the drivers that move there: 'crank 214.6°'."""
    motion, resolved = evaluation.motion, evaluation.resolved
    if not motion.stages:
        return "start pose"
    stage = int(motion.stage_of(np.array([progress]))[0])
    values = evaluation.motion.at(np.array([progress])).values[0]
    words = []
    for driver, _ in resolved.program.stages[stage].moves:
        joint = resolved.program.joints[driver]
        title = evaluation.document.program.drivers[driver].title
        words.append(f"{title} {joint_value_words(evaluation, joint, float(values[joint]))}")
    return ", ".join(words)


def joint_value_words(evaluation: Evaluation, joint: int, value: float) -> str:
    """A joint value with its unit."""
    kind = evaluation.document.joints[joint].kind
    return evaluation.resolved.units.format(value, spec_of(kind).dimension)


def listed(names: list[str]) -> str:
    """'crank, rod and slide'."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
