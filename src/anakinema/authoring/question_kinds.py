"""Kinds of question that can be asked of a mechanism, in words, and what each can be about."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

from anakinema.authoring.asking_wish import ANY, BETWEEN, WHOLE, AskingWish, Choice
from anakinema.authoring.question_measures import (
    Maker,
    angle_measure,
    axes,
    bands,
    distance_measure,
    dwell_measure,
    faces_measure,
    formula_measure,
    formulas,
    freedoms_measure,
    gap_measure,
    guided_measure,
    has_both_limits,
    has_limits,
    housing_measure,
    is_driven,
    is_pin,
    joint_measure,
    joint_rate_measure,
    kept_as,
    named_bodies,
    observers,
    other_bodies,
    other_joint,
    other_places,
    overhang_measure,
    path_measure,
    phase_measure,
    pinch_measure,
    place_rate_measure,
    places,
    pressure_measure,
    reserve_measure,
    rides,
    round_measure,
    rubbing_measure,
    share_measure,
    sizes,
    slides,
    straight_measure,
    transmission_measure,
    used_measure,
    wall_measure,
    way_measure,
)
from anakinema.document import model
from anakinema.document.kinds import spec_of
from anakinema.document.measured import measured_as
from anakinema.document.resolve import Resolved


@dataclass(frozen=True, slots=True)
class _Kind:
    """A kind of question: its words, what it is about, what is made of which measure.

    name : of the requirement that is made of it. shown : of the curve, where that is another
    than the name. suits : whether it can be asked of a thing.
    joiner, others : the word before the second thing, and what that can be.
    """

    words: str
    about: str
    reduce: model.Reduce
    measure: Maker
    name: str
    shown: str = ""
    suits: Callable[[Resolved, str], bool] = lambda resolved, first: True
    bound: str = "least"
    joiner: str = ""
    is_interval: bool = False
    """Whether its answer is an interval that a search found."""
    is_formula: bool = False
    """Whether its second part is typed: a formula of kept measures."""
    others: Callable[[Resolved, AskingWish], tuple[Choice, ...]] = lambda resolved, wish: ()


KINDS: Mapping[str, _Kind] = {
    "gap": _Kind(
        "the gap between", "bodies", "least", gap_measure, "Gap {first} to {second}",
        joiner="and", others=other_bodies, is_interval=True,
    ),
    "travel": _Kind(
        "the travel of", "joint", "range", joint_measure, "Travel of {first}", "{first}"
    ),
    "lowest": _Kind(
        "the least value of", "joint", "least", joint_measure, "Least {first}", "{first}"
    ),
    "highest": _Kind(
        "the greatest value of", "joint", "greatest", joint_measure, "Greatest {first}", "{first}",
        bound="greatest",
    ),
    "reserve": _Kind(
        "what is left of the limits of", "joint", "least", reserve_measure, "Reserve of {first}",
        suits=has_limits,
    ),
    "used": _Kind(
        "the share used of the limits of", "joint", "range", used_measure, "Used of {first}",
        suits=has_both_limits, bound="greatest",
    ),
    "transmission": _Kind(
        "the transmission angle at", "joint", "least", transmission_measure,
        "Transmission angle at {first}", suits=is_pin,
    ),
    "time_ratio": _Kind(
        "the time ratio of", "joint", "time_ratio", joint_measure, "Time ratio of {first}",
        "{first}",
    ),
    "dwell": _Kind(
        "the dwell of", "joint", "greatest", dwell_measure, "Dwell of {first}", "{first}",
        joiner="within", others=bands,
    ),
    "speed": _Kind(
        "the speed of", "joint", "size", joint_rate_measure(1), "Speed of {first}", bound="greatest"
    ),
    "acceleration": _Kind(
        "the acceleration of", "joint", "size", joint_rate_measure(2), "Acceleration of {first}",
        bound="greatest",
    ),
    "place_way": _Kind(
        "the travel of the point", "place", "range", way_measure, "Travel of {first} {second}",
        joiner="", others=axes,
    ),
    "path": _Kind(
        "the path length of", "place", "range", path_measure, "Path of {first}",
        joiner="seen from", others=observers,
    ),
    "near": _Kind(
        "the least distance of", "place", "least", distance_measure, "Distance {first} to {second}",
        joiner="from", others=other_places, bound="greatest",
    ),
    "far": _Kind(
        "the greatest distance of", "place", "greatest", distance_measure,
        "Distance {first} to {second}", joiner="from", others=other_places, bound="greatest",
    ),
    "swing": _Kind(
        "the turn of", "place", "range", angle_measure, "Turn of {first} against {second}",
        joiner="against", others=other_places,
    ),
    "place_speed": _Kind(
        "the speed of the point", "place", "greatest", place_rate_measure(1), "Speed of {first}",
        bound="greatest", joiner="seen from", others=observers,
    ),
    "place_acceleration": _Kind(
        "the acceleration of the point", "place", "greatest", place_rate_measure(2),
        "Acceleration of {first}", bound="greatest", joiner="seen from", others=observers,
    ),
    "straight": _Kind(
        "the straightness of the path of", "place", "range", straight_measure,
        "Straightness of {first}", bound="greatest",
    ),
    "round": _Kind(
        "the roundness of the path of", "place", "range", round_measure, "Roundness of {first}",
        bound="greatest",
    ),
    "freedoms": _Kind(
        "the freedoms of", "all", "greatest", freedoms_measure, "Freedoms", bound="greatest"
    ),
    "touches": _Kind(
        "the closest approach of", "bodies", "least", gap_measure, "{first} comes to {second}",
        bound="greatest", joiner="to", others=other_bodies, is_interval=True,
    ),
    "housing": _Kind(
        "the room left around", "bodies", "least", housing_measure, "{first} inside {second}",
        joiner="inside", others=named_bodies, is_interval=True,
    ),
    "pressure": _Kind(
        "the pressure angle at", "joint", "greatest", pressure_measure, "Pressure angle at {first}",
        suits=rides, bound="greatest",
    ),
    "guided": _Kind(
        "the guided length of", "joint", "least", guided_measure, "Guided length of {first}",
        suits=slides,
    ),
    "overhang": _Kind(
        "the overhang of", "joint", "greatest", overhang_measure, "Overhang of {first}",
        suits=slides, bound="greatest",
    ),
    "phase": _Kind(
        "the time out of phase of", "joint", "greatest", phase_measure,
        "Phase of {first} and {second}", bound="greatest", joiner="with", others=other_joint,
    ),
    "driver_share": _Kind(
        "the way from a dead point of", "joint", "least", share_measure, "Dead point of {first}",
        suits=is_driven,
    ),
    "pinch": _Kind(
        "how often gaps close at", "bodies", "greatest", pinch_measure("closings"),
        "Closing gaps at {first}", bound="greatest", joiner="through", others=sizes,
    ),
    "pinch_speed": _Kind(
        "the closing speed at", "bodies", "greatest", pinch_measure("speed"),
        "Closing speed at {first}", bound="greatest", joiner="through", others=sizes,
    ),
    "faces": _Kind(
        "the distance along the pin of", "body", "least", faces_measure,
        "Faces of {first} and {second}", joiner="from", others=named_bodies,
    ),
    "rubbing": _Kind(
        "the faces that rub on", "bodies", "greatest", rubbing_measure, "Faces that rub on {first}",
        bound="greatest",
    ),
    "wall": _Kind("the least wall of", "body", "least", wall_measure(False), "Wall of {first}"),
    "thickness": _Kind(
        "the least thickness of", "body", "least", wall_measure(True), "Thickness of {first}"
    ),
    "formula": _Kind(
        "the least of", "formula", "least", formula_measure, "Least {second}", "{second}",
        is_formula=True, others=formulas,
    ),
    "formula_most": _Kind(
        "the greatest of", "formula", "greatest", formula_measure, "Greatest {second}", "{second}",
        bound="greatest", is_formula=True, others=formulas,
    ),
    "measure": _Kind("the least of", "measure", "least", kept_as, "Least {first}", "{first}"),
    "measure_most": _Kind(
        "the greatest of", "measure", "greatest", kept_as, "Greatest {first}", "{first}",
        bound="greatest",
    ),
    "measure_range": _Kind(
        "the change of", "measure", "range", kept_as, "Change of {first}", "{first}"
    ),
}  # fmt: skip


def _first_other(resolved: Resolved, kind: str, first: str) -> str:
    found = others(resolved, AskingWish(kind, first))
    return found[0][0] if found else ANY


def usual_bound(kind: str) -> str:
    """The bound that a kind of question asks for if nothing else is said."""
    return KINDS[kind].bound


def wish_of(resolved: Resolved, requirement: model.Requirement) -> AskingWish | None:
    """The sentence of a requirement; None if the line has no words for it."""
    bound = "least" if requirement.least is not None else "greatest"
    value = requirement.least if bound == "least" else requirement.greatest
    text = value if isinstance(value, str) else f"{value:.10g}"
    moment = requirement.at
    where = ("", "")
    if moment is not None:
        at = moment.value if isinstance(moment.value, str) else f"{moment.value:.10g}"
        where = (moment.joint, at)
    if requirement.between is not None:
        where = (f"{requirement.between.first}{BETWEEN}{requirement.between.last}", "")
    if isinstance(requirement.measure, model.FormulaMeasure):
        found = [k for k, kind in KINDS.items() if kind.is_formula]
        fits = [k for k in found if KINDS[k].reduce == requirement.reduce]
        formula = requirement.measure.text
        return AskingWish(fits[0], WHOLE, formula, bound, text, *where) if fits else None
    for key, kind in KINDS.items():
        if kind.reduce != requirement.reduce:
            continue
        for first, _ in subjects(resolved, key):
            tried = AskingWish(key, first, _first_other(resolved, key, first))
            if type(kind.measure(resolved, tried)) is not type(requirement.measure):
                break
            for second, _ in others(resolved, AskingWish(key, first)) or ((ANY, ""),):
                wish = AskingWish(key, first, second, bound, text, *where)
                if kind.measure(resolved, wish) == requirement.measure:
                    return wish
    return None


def questions(resolved: Resolved) -> tuple[Choice, ...]:
    """Kinds of question that can be asked of what there is."""
    return tuple((key, kind.words) for key, kind in KINDS.items() if subjects(resolved, key))


@lru_cache(maxsize=64)
def subjects(resolved: Resolved, kind: str) -> tuple[Choice, ...]:
    """What a kind of question can be about; every sentence about the newest document asks again."""
    document, asked = resolved.document, KINDS[kind]
    if asked.about == "all":
        return ((WHOLE, "the mechanism"),) if document.joints else ()
    if asked.about == "bodies":
        bodies = tuple((body.id, body.title) for body in document.bodies)
        return (*bodies, (ANY, "any body")) if len(bodies) > 1 else ()
    if asked.about == "body":
        return tuple((body.id, body.title) for body in document.bodies)
    if asked.about == "formula":
        return ((WHOLE, "a formula:"),) if document.measures else ()
    if asked.about == "measure":
        made = ((kept, measured_as(kept.measure).reductions) for kept in document.measures)
        return tuple((kept.id, kept.title) for kept, can in made if asked.reduce in can)
    if asked.about == "place":
        return places(resolved) if document.joints else ()
    return tuple(
        (joint.id, joint.title)
        for joint in document.joints
        if spec_of(joint.kind).moves and asked.suits(resolved, joint.id)
    )


def others(resolved: Resolved, wish: AskingWish) -> tuple[Choice, ...]:
    """What stands behind 'and', 'from', 'within'; nothing where a question is about one thing."""
    return KINDS[wish.kind].others(resolved, wish)


MOST_POSES = 6
"""Kept poses that questions offer, two at a time."""


def at_values(resolved: Resolved, kind: str) -> tuple[Choice, ...]:
    """Joints at whose value a kind of question can be asked, drivers first; () if at none."""
    made_once = KINDS[kind].reduce in ("least", "greatest", "size")
    if not made_once or KINDS[kind].about not in ("joint", "place", "measure", "formula"):
        return ()
    driven = {driver.joint for driver in resolved.document.program.drivers}
    joints = [each for each in resolved.document.joints if spec_of(each.kind).moves]
    return tuple(
        (each.id, each.title) for each in sorted(joints, key=lambda each: each.id not in driven)
    )


def spans(resolved: Resolved, kind: str) -> tuple[Choice, ...]:
    """Pairs of kept poses between which a kind of question can be asked."""
    made_once = KINDS[kind].reduce in ("least", "greatest", "size", "range")
    if not made_once or KINDS[kind].about == "formula":
        return ()
    return tuple(
        (f"{one.id}{BETWEEN}{other.id}", f"from {one.title} to {other.title}")
        for one, other in combinations(resolved.source.poses[:MOST_POSES], 2)
    )


def is_typed(kind: str) -> bool:
    """Whether the second part of a kind of question is typed."""
    return KINDS[kind].is_formula


def joiner(kind: str) -> str:
    """The word between the two things of a kind of question."""
    return KINDS[kind].joiner
