"""The whole chain as one function: document to verdict. Session, command line, tests and
benchmarks all end here."""

from __future__ import annotations

from dataclasses import dataclass, replace

from anakinema.analysis.gaps import Comparisons, Gaps
from anakinema.document.model import Document
from anakinema.document.resolve import Resolved, resolve
from anakinema.findings.check import check
from anakinema.findings.finding import Verdict
from anakinema.mechanism.belt_pairs import belt_pairs
from anakinema.mechanism.compile import Mechanism, compile_mechanism
from anakinema.mechanism.contacts import beside_contacts
from anakinema.mechanism.space_pairs import space_pairs
from anakinema.motion.events import stopped_at_limits
from anakinema.motion.followed_program import FollowedProgram, follow_program
from anakinema.motion.motion import Motion
from anakinema.motion.preview import preview
from anakinema.motion.sweep import sample
from anakinema.wanted import doing


@dataclass(frozen=True, eq=False)
class Evaluation:
    """Everything that is known of a document.

    ``source`` is what the designer made, ``document`` its flat form that all results speak of.
    ``basis``: of a first, coarse answer the exact one of an earlier document that it began from.
    """

    source: Document
    document: Document
    resolved: Resolved
    mechanism: Mechanism
    followed: FollowedProgram
    whole: Motion
    motion: Motion
    gaps: Gaps
    verdict: Verdict
    basis: Evaluation | None = None

    @property
    def is_exact(self) -> bool:
        """Whether it is more than a first look."""
        return self.basis is None

    @property
    def exact(self) -> Evaluation:
        """The newest exact one that it knows: itself, or what it began from."""
        return self.basis or self


def evaluate(document: Document, *, earlier: Evaluation | None = None) -> Evaluation:
    """Resolve, compile, follow, sample, and check a document.

    ``earlier`` is an evaluation of a similar document whose unchanged stages are used again; of a
    first look those of the exact one that it began from.
    Asks `anakinema.wanted` often. Raises an `AnakinemaError` if the document is faulty or cannot
    be assembled.
    """
    earlier = None if earlier is None else earlier.exact
    doing("reading the numbers")
    resolved = resolve(document)
    doing("putting the joints together")
    mechanism = compile_mechanism(resolved)
    doing("following the motion")
    followed = _followed(mechanism, earlier)
    same = earlier is not None and earlier.followed.segments is followed.segments
    if earlier is not None and same and followed.segments:
        whole = replace(earlier.whole, mechanism=mechanism)
    else:
        whole = sample(followed)
    motion = stopped_at_limits(whole, run_past=document.program.past_limits)
    doing("comparing the outlines")
    gaps = Gaps(motion, compared(mechanism), exact=True)
    if earlier is not None:
        gaps.adopt(earlier.gaps)
    doing("checking what is asked")
    verdict = check(resolved, motion, gaps, whole)
    return Evaluation(
        document, resolved.document, resolved, mechanism, followed, whole, motion, gaps, verdict
    )


def first_look(document: Document, earlier: Evaluation) -> Evaluation | None:
    """A coarse answer within a frame or two, from the motion of an earlier evaluation; if that was
    a first look too, from what it began from, its poses being nearer.

    Few steps, nothing between them, no events. None if the change is too large for that.
    Raises an `AnakinemaError` if the document is faulty.
    """
    resolved = resolve(document)
    mechanism = compile_mechanism(resolved)
    exact = earlier.exact
    motion = preview(mechanism, exact.whole, None if earlier is exact else earlier.whole)
    if motion is None:
        return None
    gaps = Gaps(motion, compared(mechanism), exact=False)
    gaps.adopt(earlier.gaps)
    verdict = check(resolved, motion, gaps, motion)
    begins = motion.progress[0] == exact.whole.progress[0]
    start = motion.poses[0] if begins else earlier.followed.poses
    followed = replace(exact.followed, mechanism=mechanism, poses=start)
    return Evaluation(
        document,
        resolved.document,
        resolved,
        mechanism,
        followed,
        motion,
        motion,
        gaps,
        verdict,
        exact,
    )


def compared(mechanism: Mechanism) -> Comparisons:
    """What of a mechanism is compared."""
    resolved = mechanism.resolved
    return Comparisons(
        beside_contacts(resolved, mechanism.facings),
        belt_pairs(resolved, mechanism.belts),
        space_pairs(resolved),
    )


def _followed(mechanism: Mechanism, earlier: Evaluation | None) -> FollowedProgram:
    if earlier is not None:
        same_program = earlier.resolved.program == mechanism.resolved.program
        # Whole turns are shown by the limits, so a course serves while those turns agree.
        same_limits = earlier.resolved.joints == mechanism.resolved.joints
        if same_program and earlier.mechanism.signature == mechanism.signature:
            followed = replace(earlier.followed, mechanism=mechanism)
            if same_limits or (followed.shown_turns(mechanism) == followed.shift).all():
                return followed
    return follow_program(mechanism)
