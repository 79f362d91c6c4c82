"""The open work: document, history, journal, the newest results, and how they are
played. It holds what no other package does: everything here changes with the user's hands.
"""

from anakinema.session.calculator import Calculator
from anakinema.session.guide import GUIDES, GuideState, next_step, steps_of
from anakinema.session.hand import HandDrive
from anakinema.session.lane import Lane, lanes
from anakinema.session.playback import Playback
from anakinema.session.plot import Plot, Series, plot_csv, plot_text, plotted, ways_across
from anakinema.session.recovery import LeftBehind, left_behind
from anakinema.session.review import Moment, Review
from anakinema.session.session import (
    Drawn,
    DriverRanges,
    FileChangedError,
    Session,
    answers,
    beside,
    driver_ranges,
    poses_at,
    write_export,
)

__all__ = [
    "GUIDES",
    "Calculator",
    "Drawn",
    "DriverRanges",
    "FileChangedError",
    "GuideState",
    "HandDrive",
    "Lane",
    "LeftBehind",
    "Moment",
    "Playback",
    "Plot",
    "Review",
    "Series",
    "Session",
    "answers",
    "beside",
    "driver_ranges",
    "lanes",
    "left_behind",
    "next_step",
    "plot_csv",
    "plot_text",
    "plotted",
    "poses_at",
    "steps_of",
    "ways_across",
    "write_export",
]
