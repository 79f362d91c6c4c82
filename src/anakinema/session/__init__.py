"""The open work: document, history, newest results; and what views may show of them.

Views import results and words from here, never from the stages that make them.
"""

from anakinema.analysis.reach import Reach
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import (
    asked_words,
    cautions,
    event_words,
    finding_facts,
    finding_why,
    joint_value_words,
    mobility_words,
    progress_words,
    reach_words,
    value_words,
    verdict_words,
)
from anakinema.session.autosave import left_behind
from anakinema.session.gauges import Gauge, gauges
from anakinema.session.lanes import Lane, lanes
from anakinema.session.playback import Playback
from anakinema.session.session import (
    Session,
    answers,
    driver_ranges,
    export_report,
    export_table,
    poses_at,
)
from anakinema.session.settings import Settings

__all__ = [
    "Evaluation",
    "Finding",
    "Gauge",
    "Lane",
    "Outcome",
    "Playback",
    "Reach",
    "Session",
    "Settings",
    "answers",
    "asked_words",
    "cautions",
    "driver_ranges",
    "event_words",
    "export_report",
    "export_table",
    "finding_facts",
    "finding_why",
    "gauges",
    "joint_value_words",
    "lanes",
    "left_behind",
    "mobility_words",
    "poses_at",
    "progress_words",
    "reach_words",
    "value_words",
    "verdict_words",
]
