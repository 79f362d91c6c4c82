"""What is known of a mechanism, judged and worded: `evaluate` is the whole chain from document
to verdict, all else here are its answers and their sentences.
"""

from anakinema.findings.evaluate import Evaluation
from anakinema.findings.event_wording import (
    event_words,
    guide_words,
    reach_words,
    standing_words,
    window_words,
)
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.hazards import cautions
from anakinema.findings.miniature import Miniature, small
from anakinema.findings.mobility_wording import mobility_words
from anakinema.findings.value_wording import joint_value_words, progress_words
from anakinema.findings.wording import (
    asked_words,
    finding_facts,
    finding_inputs,
    finding_why,
    value_words,
    verdict_words,
)

__all__ = [
    "Evaluation",
    "Finding",
    "Miniature",
    "Outcome",
    "asked_words",
    "cautions",
    "event_words",
    "finding_facts",
    "finding_inputs",
    "finding_why",
    "guide_words",
    "joint_value_words",
    "mobility_words",
    "progress_words",
    "reach_words",
    "small",
    "standing_words",
    "value_words",
    "verdict_words",
    "window_words",
]
