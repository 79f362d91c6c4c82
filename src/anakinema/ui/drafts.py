"""What is being drafted with a tool in hand: stage and inspector show one and the same."""

from __future__ import annotations

from anakinema.ui.joining import JoinDraft
from anakinema.ui.marking import MarkDraft
from anakinema.ui.repeating import RepeatDraft
from anakinema.ui.workbench import Workbench


class Drafts:
    """The join, the copies and the place that are not made yet."""

    def __init__(self, workbench: Workbench) -> None:
        self.join = JoinDraft(workbench)
        self.repeat = RepeatDraft(workbench)
        self.mark = MarkDraft(workbench)
