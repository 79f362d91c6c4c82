"""Measures of a document as they are asked about its motion."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.measures.angle import angle
from anakinema.measures.answer import Answer, Unanswered
from anakinema.measures.distance import distance
from anakinema.measures.dwell import dwell
from anakinema.measures.faces import faces, rubbing
from anakinema.measures.formula import formula
from anakinema.measures.freedoms import freedoms
from anakinema.measures.gap import body_gap
from anakinema.measures.guided import guided
from anakinema.measures.housing import housing
from anakinema.measures.joint import joint_value, reserve, transmission, used
from anakinema.measures.moment import at_moment
from anakinema.measures.path import path, round_path, straight
from anakinema.measures.phase import phase
from anakinema.measures.pinch import pinch
from anakinema.measures.pressure import pressure
from anakinema.measures.rates import joint_rate, place_rate
from anakinema.measures.share import driver_share
from anakinema.measures.stretch import part_between
from anakinema.measures.subject import Measure, Subject
from anakinema.measures.wall import wall
from anakinema.measures.way import way

_MAKERS: Mapping[type[model.Model], Callable[[Resolved, Any], Measure]] = {
    model.JointMeasure: joint_value,
    model.ReserveMeasure: reserve,
    model.TransmissionMeasure: transmission,
    model.GapMeasure: body_gap,
    model.DistanceMeasure: distance,
    model.WayMeasure: way,
    model.UsedMeasure: used,
    model.JointRateMeasure: joint_rate,
    model.PlaceRateMeasure: place_rate,
    model.AngleMeasure: angle,
    model.PathMeasure: path,
    model.StraightMeasure: straight,
    model.RoundMeasure: round_path,
    model.DwellMeasure: dwell,
    model.FreedomsMeasure: freedoms,
    model.PhaseMeasure: phase,
    model.PressureMeasure: pressure,
    model.GuidedMeasure: guided,
    model.OverhangMeasure: guided,
    model.DriverShareMeasure: driver_share,
    model.HousingMeasure: housing,
    model.PinchMeasure: pinch,
    model.FacesMeasure: faces,
    model.RubbingMeasure: rubbing,
    model.WallMeasure: wall,
    model.FormulaMeasure: lambda resolved, measure: formula(resolved, measure, measure_of),
}


def measure_of(resolved: Resolved, measure: model.Measure) -> Measure:
    """A measure of a resolved document."""
    return _MAKERS[type(measure)](resolved, measure)


def answered(
    subject: Subject, requirement: model.Requirement, above: float | None
) -> Answer | Unanswered:
    """What a requirement asks of a motion, its least searched against the bound ``above``."""
    measure = measure_of(subject.resolved, requirement.measure)
    if requirement.between is not None:
        part = part_between(subject, measure, requirement.between)
        if isinstance(part, Unanswered):
            return part
        subject = part
    if requirement.at is not None:
        return at_moment(subject, measure, requirement.reduce, requirement.at)
    return measure.answer(requirement.reduce, subject, above)
