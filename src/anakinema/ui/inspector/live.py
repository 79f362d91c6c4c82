"""Live rows of a joint: its present value, the band it uses over the motion, what is in reserve."""

from __future__ import annotations

import numpy as np

from anakinema.authoring import gauges
from anakinema.findings import joint_value_words
from anakinema.ui.inspector.form import Form


def show_use_of(form: Form, joint_id: str) -> None:
    """Rows that follow the results and the playhead."""
    form.live("Present", lambda: _present(form, joint_id))
    form.live("Used, least", lambda: _used(form, joint_id, 0))
    form.live("Used, greatest", lambda: _used(form, joint_id, 1))
    form.live("Reserve", lambda: _reserve(form, joint_id))


def _joint_index(form: Form, joint_id: str) -> int | None:
    evaluation = form.workbench.evaluation
    if evaluation is None:
        return None
    ids = [joint.id for joint in evaluation.document.joints]
    return ids.index(joint_id) if joint_id in ids else None


def _present(form: Form, joint_id: str) -> str:
    evaluation, index = form.workbench.evaluation, _joint_index(form, joint_id)
    if evaluation is None or index is None:
        return ""
    motion = evaluation.motion
    value = np.interp(form.workbench.progress, motion.progress, motion.values[:, index])
    return joint_value_words(evaluation, index, float(value))


def _used(form: Form, joint_id: str, end: int) -> str:
    evaluation, index = form.workbench.evaluation, _joint_index(form, joint_id)
    if evaluation is None or index is None:
        return ""
    gauge = next((g for g in gauges(evaluation) if g.joint == index), None)
    if gauge is None:
        return ""
    return joint_value_words(evaluation, index, gauge.high if end else gauge.low)


def _reserve(form: Form, joint_id: str) -> str:
    evaluation, index = form.workbench.evaluation, _joint_index(form, joint_id)
    if evaluation is None or index is None:
        return ""
    gauge = next((g for g in gauges(evaluation) if g.joint == index), None)
    if gauge is None or (gauge.least is None and gauge.greatest is None):
        return "no limits"
    ends = []
    if gauge.least is not None:
        ends.append(joint_value_words(evaluation, index, gauge.low - gauge.least))
    if gauge.greatest is not None:
        ends.append(joint_value_words(evaluation, index, gauge.greatest - gauge.high))
    return " and ".join(ends)
