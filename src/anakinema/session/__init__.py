"""The open work: document, history, journal, settings, the newest results, and how they are
played. It holds what no other package does: everything here changes with the user's hands.
"""

from anakinema.session.guide import STEPS as GUIDE_STEPS
from anakinema.session.guide import GuideState, next_step
from anakinema.session.hand import HandDrive
from anakinema.session.lane import Lane, lanes
from anakinema.session.playback import Playback
from anakinema.session.recovery import LeftBehind, left_behind
from anakinema.session.session import (
    Drawn,
    FileChangedError,
    Session,
    answers,
    beside,
    driver_ranges,
    poses_at,
    write_export,
)
from anakinema.session.settings import Settings

__all__ = [
    "GUIDE_STEPS",
    "Drawn",
    "FileChangedError",
    "GuideState",
    "HandDrive",
    "Lane",
    "LeftBehind",
    "Playback",
    "Session",
    "Settings",
    "answers",
    "beside",
    "driver_ranges",
    "lanes",
    "left_behind",
    "next_step",
    "poses_at",
    "write_export",
]
