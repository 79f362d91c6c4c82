"""The motion as it is shown to others: run through once, slowing to a stop at all that matters."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, replace

from anakinema.findings import Evaluation, Outcome, event_words, value_words
from anakinema.findings.finding import SEVERITY
from anakinema.findings.wording import asked_words
from anakinema.motion.motion import EventKind
from anakinema.session.playback import Playback

SAME = 1e-4
"""Progress; what happens closer together is told together."""
MOST = 30
"""Moments; of more, those where a value is merely greatest or least are left out."""
HELD = 1.8
"""Seconds that a moment is looked at."""
LEG = 0.7, 4.0
"""Seconds from one moment to the next, at least and at most."""


@dataclass(frozen=True, slots=True)
class Moment:
    """A place on the motion, what is to be said of it, and how the worst of that fared."""

    progress: float
    words: tuple[str, ...]
    outcome: Outcome | None = None
    finding: str = ""
    """Id of the finding that is to be seen there."""


def moments(evaluation: Evaluation) -> tuple[Moment, ...]:
    """Events and the unfavourable place of every answer, in the order of the motion."""
    told: list[Moment] = []
    answers: dict[str, int] = {}
    events = list(evaluation.motion.events)
    if len(events) + len(evaluation.verdict.findings) > MOST:
        events = [event for event in events if event.kind is not EventKind.EXTREME]
    told += [Moment(event.progress, (event_words(evaluation, event),)) for event in events]
    for finding in evaluation.verdict.findings:
        if finding.progress is not None:
            asked = asked_words(evaluation, finding)
            words = f"{finding.title}: {value_words(evaluation, finding)}"
            words = f"{words}, {asked}" if asked else words
            if finding.outcome is not Outcome.PASS:
                words = f"{finding.outcome.value}: {words}"
            answers[words] = SEVERITY.index(finding.outcome)
            told.append(Moment(finding.progress, (words,), finding.outcome, finding.id))
    found: list[Moment] = []
    for each in sorted(told, key=lambda moment: moment.progress):
        if found and each.progress - found[-1].progress <= SAME:
            found[-1] = _together(found[-1], each)
        else:
            found.append(each)
    # The worst answers first, what merely happens last.
    return tuple(
        replace(
            each,
            words=tuple(sorted(each.words, key=lambda words: answers.get(words, len(SEVERITY)))),
        )
        for each in found
    )


def _together(one: Moment, other: Moment) -> Moment:
    worst = next((outcome for outcome in SEVERITY if outcome in (one.outcome, other.outcome)), None)
    # What is seen there is what fared worst.
    shown = other.finding if other.outcome is worst and one.outcome is not worst else one.finding
    words = tuple(dict.fromkeys((*one.words, *other.words)))
    return Moment(one.progress, words, worst, shown or other.finding)


@dataclass(frozen=True, slots=True)
class _Leg:
    """From one motion time to another within some seconds from ``begin``, then held."""

    begin: float
    lasts: float
    held: float
    start: float
    end: float


class Review:
    """A schedule: where the motion is after so many seconds of watching, and what is said then."""

    def __init__(self, evaluation: Evaluation) -> None:
        self.moments = moments(evaluation)
        self._playback = playback = Playback(evaluation)
        times = [playback.time_at(moment.progress) for moment in self.moments]
        begin, at = 0.0, 0.0
        self._legs: list[_Leg] = []
        for end, held in [*((time, HELD) for time in times), (playback.duration, 0.0)]:
            lasts = min(max(end - at, LEG[0]), LEG[1]) if end > at else 0.0
            self._legs.append(_Leg(begin, lasts, held, at, end))
            begin, at = begin + lasts + held, end
        self.duration = begin
        """Seconds of watching."""

    def at(self, seconds: float) -> tuple[float, int | None]:
        """Progress, and the index of the moment that is looked at, if one is."""
        k = max(0, bisect_right([leg.begin for leg in self._legs], seconds) - 1)
        leg = self._legs[k]
        share = min((seconds - leg.begin) / leg.lasts, 1.0) if leg.lasts else 1.0
        # Sets off and comes to rest gently.
        eased = share * share * (3.0 - 2.0 * share)
        time = leg.start + (leg.end - leg.start) * eased
        is_there = share >= 1.0 and k < len(self.moments)
        if is_there:
            return self.moments[k].progress, k
        return self._playback.progress_at(time), None

    def begin_of(self, moment: int) -> float:
        """Seconds of watching at which a moment begins to be looked at."""
        leg = self._legs[moment]
        return leg.begin + leg.lasts
