"""What is measured of a motion: a number at every pose, and one answer made of it.

A *measure* of the document becomes a value with columns over the motion (`measure_of`); a
*reduction* makes one *answer* of it (`answered`): a value or an interval that it certainly lies
in, with the place where it was found, or the reason why there is none. Requirements, lanes of the
strip and kept measures all ask here.
"""

from anakinema.measures.answer import Answer, Curve, Unanswered
from anakinema.measures.asked import answered, measure_of
from anakinema.measures.gap import BodyGap
from anakinema.measures.joint import JointValue
from anakinema.measures.located import Located
from anakinema.measures.subject import Measure, Subject

__all__ = [
    "Answer",
    "BodyGap",
    "Curve",
    "JointValue",
    "Located",
    "Measure",
    "Subject",
    "Unanswered",
    "answered",
    "measure_of",
]
