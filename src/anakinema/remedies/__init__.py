"""What to change so that a requirement passes, and how far a number may go.

Numbers of a document (`numbers`) are moved until a requirement just passes, judged beside the
place where it is worst (`local`), and every answer is confirmed by one whole evaluation
(`remedy`), or until it comes to a target
(`solving`). The range in which all requirements pass is found the same way (`bands`).
"""

from anakinema.remedies.bands import CLOSING, Band, End, band_words, safe_band
from anakinema.remedies.numbers import Number, free_numbers
from anakinema.remedies.remedy import Effect, Remedy, remedies
from anakinema.remedies.solving import solved
from anakinema.remedies.trials import Difference, back_to, differences, standing_words, trial_of
from anakinema.remedies.wording import band_trust_words, change_words, effects_words, end_words

__all__ = [
    "CLOSING",
    "Band",
    "Difference",
    "Effect",
    "End",
    "Number",
    "Remedy",
    "back_to",
    "band_trust_words",
    "band_words",
    "change_words",
    "differences",
    "effects_words",
    "end_words",
    "free_numbers",
    "remedies",
    "safe_band",
    "solved",
    "standing_words",
    "trial_of",
]
