"""What to change so that a requirement passes, and how far a number may go.

Numbers of a document (`numbers`) are moved until a requirement just passes, judged beside the
place where it is worst (`local`), and every answer is confirmed by one whole evaluation
(`remedy`), or until it comes to a target
(`solving`). The range in which all requirements pass is found the same way (`bands`).
"""

from anakinema.remedies.bands import CLOSING, Band, End, band_words, safe_band
from anakinema.remedies.evaluators import Cluster, Evaluator, Inline, Processes
from anakinema.remedies.improving import (
    Design,
    Goal,
    Progress,
    Range,
    edit_to,
    improve,
    ranges_about,
)
from anakinema.remedies.judging import judged_in_time
from anakinema.remedies.numbers import Number, free_numbers, number_named
from anakinema.remedies.remedy import Effect, Remedy, remedies
from anakinema.remedies.solving import pull_slope, solved
from anakinema.remedies.trials import (
    Difference,
    back_to,
    between,
    differences,
    standing_words,
    trial_of,
)
from anakinema.remedies.wording import (
    band_trust_words,
    change_words,
    design_words,
    effects_words,
    end_words,
    goal_words,
    outcome_words,
    progress_words,
    range_of,
)

__all__ = [
    "CLOSING",
    "Band",
    "Cluster",
    "Design",
    "Difference",
    "Effect",
    "End",
    "Evaluator",
    "Goal",
    "Inline",
    "Number",
    "Processes",
    "Progress",
    "Range",
    "Remedy",
    "back_to",
    "band_trust_words",
    "band_words",
    "between",
    "change_words",
    "design_words",
    "differences",
    "edit_to",
    "effects_words",
    "end_words",
    "free_numbers",
    "goal_words",
    "improve",
    "judged_in_time",
    "number_named",
    "outcome_words",
    "progress_words",
    "pull_slope",
    "range_of",
    "ranges_about",
    "remedies",
    "safe_band",
    "solved",
    "standing_words",
    "trial_of",
]
