"""A question as it stands in the sentence."""

from __future__ import annotations

from dataclasses import dataclass

Choice = tuple[str, str]
"""An id, and the words for it."""
ANY = ""
"""In the place of a body: whatever there is."""
WHOLE = "mechanism"
"""In the place of what a question is about: all of it."""


BETWEEN = ">"
"""Parts the ids of two kept poses."""


@dataclass(frozen=True, slots=True)
class AskingWish:
    """A question as it stands in the sentence: kind, what it is about, and its bound.

    ``first`` and ``second`` are ids of bodies, joints, kept measures, or places as ``body.place``;
    for a few kinds the second is a direction or a band.
    """

    kind: str
    first: str = ""
    second: str = ""
    bound: str = "least"
    value: str = ""
    joint: str = ""
    """Where it is asked only at a value of a joint: that joint, and ``at`` the value; or two kept
    poses, `first>last`, between which it is asked."""
    at: str = ""

    @property
    def poses(self) -> tuple[str, str] | None:
        """The kept poses between which it is asked, if it is."""
        first, between, last = self.joint.partition(BETWEEN)
        return (first, last) if between else None
