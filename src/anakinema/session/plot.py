"""Curves of the strip against one another: over time, a driver, or any other curve."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from anakinema.document.kinds import spec_of
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.session.lane import Lane
from anakinema.units import TIME, Dimension, UnitSystem

TIME_KEY = "time"
DRIVER, LANE = "driver:", "lane:"
"""What keys of ways across begin with, before a joint's id or a curve's title."""


@dataclass(frozen=True, slots=True, eq=False)
class Series:
    """One quantity (N,) in inside units."""

    title: str
    dimension: Dimension
    values: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Plot:
    """Quantities against another one, all at the same progress (N,)."""

    progress: Floats
    across: Series
    series: tuple[Series, ...]

    def at(self, progress: float) -> list[float]:
        """The quantity across, then all others, at a progress."""
        return [
            float(np.interp(progress, self.progress, each.values))
            for each in (self.across, *self.series)
        ]


def ways_across(evaluation: Evaluation, lanes: Sequence[Lane]) -> tuple[tuple[str, str], ...]:
    """What curves can be drawn against: (key, words), drivers first."""
    joints = evaluation.document.joints
    drivers = [joints[j] for j in evaluation.motion.driver_joints]
    found = [(f"{DRIVER}{joint.id}", joint.title) for joint in drivers]
    found.append((TIME_KEY, "time"))
    return (*found, *((f"{LANE}{lane.title}", lane.title) for lane in lanes))


def plotted(evaluation: Evaluation, lanes: Sequence[Lane], across: str) -> Plot:
    """Curves against what a key of `ways_across` names; against time if there is none such.

    They are at all steps of the motion and at the located places that any of them knows.
    """
    by_title = {lane.title: lane for lane in lanes}
    chosen = by_title.get(across.removeprefix(LANE)) if across.startswith(LANE) else None
    known = [evaluation.motion.progress, *(lane.progress for lane in lanes)]
    progress = np.unique(np.concatenate(known))
    if chosen is not None:
        horizontal = _series(chosen, progress)
    elif across.startswith(DRIVER) and _joint(evaluation, across) is not None:
        horizontal = _driver(evaluation, across, progress)
    else:
        horizontal = Series("time", TIME, evaluation.motion.time(progress))
    return Plot(progress, horizontal, tuple(_series(lane, progress) for lane in lanes))


def _series(lane: Lane, progress: Floats) -> Series:
    return Series(lane.title, lane.dimension, np.interp(progress, lane.progress, lane.values))


def _joint(evaluation: Evaluation, across: str) -> int | None:
    ids = [joint.id for joint in evaluation.document.joints]
    name = across.removeprefix(DRIVER)
    return ids.index(name) if name in ids else None


def _driver(evaluation: Evaluation, across: str, progress: Floats) -> Series:
    index = _joint(evaluation, across)
    assert index is not None
    joint, motion = evaluation.document.joints[index], evaluation.motion
    values = np.interp(progress, motion.progress, motion.values[:, index])
    return Series(joint.title, spec_of(joint.kind).dimension, values)


def plot_rows(plot: Plot, units: UnitSystem) -> list[list[str]]:
    """A header with units, and a row for each progress, in a document's units."""
    columns = (plot.across, *plot.series)
    header = [f"{each.title} ({units.name(each.dimension)})".replace(" ()", "") for each in columns]
    shown = np.column_stack([each.values / units.factor(each.dimension) for each in columns])
    return [header, *([f"{v:.10g}" if math.isfinite(v) else "" for v in row] for row in shown)]


def plot_text(plot: Plot, units: UnitSystem) -> str:
    """The rows, their cells apart by tabs: what a spreadsheet takes when pasted."""
    clean = ([cell.replace("\t", " ") for cell in row] for row in plot_rows(plot, units))
    return "\n".join("\t".join(row) for row in clean) + "\n"


def plot_csv(plot: Plot, units: UnitSystem) -> str:
    """The rows as CSV."""
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(plot_rows(plot, units))
    return out.getvalue()
