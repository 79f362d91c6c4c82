"""Guided builds: what to do next, judged by what is really there, and where to point."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model

GUIDES = {"four-bar": "a four-bar", "cam": "a cam that lifts", "pawl": "a pawl that holds"}
"""Names of the guided builds, and what they build."""


@dataclass(frozen=True, slots=True)
class GuideState:
    """What a guide looks at. freedoms : None while not known. tried, played : so far.

    playing : now. tool : in hand. station, view : on show; view 'stage', 'studio' or another.
    selected : part of the selected body, both parts of the selected joint ('crank on base'), or the
    kind of what else is selected. picked : places of a join so far.
    """

    document: model.Document
    freedoms: int | None = None
    tried: bool = False
    played: bool = False
    playing: bool = False
    tool: str = ""
    station: str = "Assemble"
    view: str = "stage"
    selected: str = ""
    picked: int = 0


@dataclass(frozen=True, slots=True)
class GuideStep:
    """One thing to do, how it is known to be done, and where to point meanwhile.

    point : 'shelf:TITLE', 'stage:X,Y' (mm), 'drag:PART.PLACE>PART.PLACE', 'place:PART.PLACE',
    'body:PART', 'widget:NAME', 'block:STAGE'; parts by what their names begin with, or '' for
    nowhere. Where more bodies are of a part, PART#2 is the second.
    """

    words: str
    is_done: Callable[[GuideState], bool]
    point: str = ""


def _has_part(document: model.Document, start: str, count: int = 1) -> bool:
    return sum(body.part.startswith(start) for body in document.bodies) >= count


def _joined(document: model.Document, one: str, other: str) -> bool:
    """Whether a body of one kind of part is joined to one of another kind."""
    parts = {body.id: body.part for body in document.bodies}
    return any(
        {one, other}
        == {
            next((k for k in (one, other) if parts.get(side.body, "").startswith(k)), "")
            for side in (joint.first, joint.second)
        }
        for joint in document.joints
    )


def _placing(title: str, part: str, at: str, count: int = 1) -> tuple[GuideStep, GuideStep]:
    """Take a part of the shelf in hand, and put it down."""
    another = "another " if count > 1 else ""
    return (
        GuideStep(
            f"Click {another}“{title}” in the list on the left.",
            lambda s: s.tool.startswith("place:") or _has_part(s.document, part, count),
            f"shelf:{title}",
        ),
        GuideStep(
            "Click the stage at the ring to put it down.",
            lambda s: _has_part(s.document, part, count),
            f"stage:{at}",
        ),
    )


def _dimension_changed(state: GuideState, part: str, usual: dict[str, str]) -> bool:
    return any(
        d.id in usual and str(d.value) != usual[d.id]
        for p in state.document.parts
        if p.id.startswith(part)
        for d in p.dimensions
    )


_CHECKING = (
    GuideStep("Click Check above.", lambda s: s.station == "Check", "widget:station_check"),
    GuideStep(
        "The line above the stage asks a question and says what is so now. Press Ask: from now"
        " on it is checked after every change.",
        lambda s: bool(s.document.requirements),
        "widget:ask_commit",
    ),
)
_FOUR_BAR: tuple[GuideStep, ...] = (
    *_placing("base with two pins", "base", "0,-45"),
    *_placing("crank with pin", "crank", "-110,50"),
    *_placing("link", "link", "0,85"),
    *_placing("link", "link", "95,40", 2),
    GuideStep(
        "Drag the big hole of the crank onto the left pin of the base, let go, and press Enter.",
        lambda s: _joined(s.document, "crank", "base"),
        "drag:crank.shaft>base.a",
    ),
    GuideStep(
        "Drag the ringed hole of the right link onto the right pin of the base; Enter.",
        lambda s: _joined(s.document, "link", "base"),
        "drag:link#2.a>base.b",
    ),
    GuideStep(
        "Drag the ringed hole of the other link onto the pin of the crank; Enter.",
        lambda s: _joined(s.document, "link", "crank"),
        "drag:link.a>crank.pin",
    ),
    GuideStep(
        "Close the loop: drag the free hole of this link onto that of the other; Enter. O shows the"
        " other way to assemble it.",
        lambda s: len(s.document.joints) >= 4 and s.freedoms == 1,
        "drag:link.b>link#2.b",
    ),
    GuideStep(
        "Drag the crank round with the mouse: everything follows. Let go.",
        lambda s: s.tried,
        "place:crank.pin",
    ),
    GuideStep(
        "Click the pin where the crank meets the base.",
        lambda s: s.selected == "crank on base" or bool(s.document.program.drivers),
        "place:crank.shaft",
    ),
    GuideStep(
        "Press Drive on the right.",
        lambda s: bool(s.document.program.drivers),
        "widget:joint_drive",
    ),
    GuideStep("Press Space to see it run.", lambda s: s.played, "widget:play"),
    *_CHECKING,
    GuideStep(
        "Press Space to stop it.",
        lambda s: not s.playing or s.selected.startswith("crank"),
        "widget:play",
    ),
    GuideStep(
        "Now change a length: click the crank on the stage.",
        lambda s: (
            s.selected.startswith("crank") or _dimension_changed(s, "crank", {"throw": "30 mm"})
        ),
        "body:crank",
    ),
    GuideStep(
        "Type 35 for its throw on the right: path, curves and checks follow at once.",
        lambda s: _dimension_changed(s, "crank", {"throw": "30 mm"}),
        "widget:dimension_crank_throw",
    ),
)
_CAM: tuple[GuideStep, ...] = (
    GuideStep("Press C: the cam studio opens.", lambda s: s.view == "studio" or _cams(s)),
    GuideStep(
        "Press “Make it”: a cam with a roller follower that slides, lifted by 12 mm.",
        lambda s: _cams(s),
        "widget:cam_make",
    ),
    GuideStep(
        "Here stand its lift, speed and acceleration. Press Esc to see it on the stage.",
        lambda s: _cams(s) and s.view == "stage",
    ),
    GuideStep("Press Space to see it run.", lambda s: s.played, "widget:play"),
    *_CHECKING,
    GuideStep("Press Space to stop it.", lambda s: not s.playing, "widget:play"),
    GuideStep(
        "Click the cam on the stage.",
        lambda s: s.selected.startswith("cam") or _dimension_changed(s, "cam", {"base": "30 mm"}),
        "body:cam",
    ),
    GuideStep(
        "Type 36 for its base on the right: a larger base makes the push less steep.",
        lambda s: _dimension_changed(s, "cam", {"base": "30 mm"}),
        "widget:dimension_cam_base",
    ),
)


def _value(state: GuideState, part: str, name: str) -> str:
    """A dimension of the first part of that kind, as it is typed; '' if there is none."""
    return next(
        (
            str(d.value)
            for p in state.document.parts
            if p.id.startswith(part)
            for d in p.dimensions
            if d.id == name
        ),
        "",
    )


def _pawl_joint(state: GuideState) -> model.Joint | None:
    parts = {body.id: body.part for body in state.document.bodies}
    for joint in state.document.joints:
        if {parts.get(joint.first.body), parts.get(joint.second.body)} == {"pawl", "base"}:
            return joint
    return None


def _pawl_yields(state: GuideState) -> bool:
    joint = _pawl_joint(state)
    return joint is not None and joint.yields is not None


def _pawl_rests(state: GuideState) -> bool:
    joint = _pawl_joint(state)
    rest = str(joint.limits.rest) if joint is not None and joint.limits.rest is not None else ""
    return rest.startswith("-150")


def _turns_back(state: GuideState) -> bool:
    stages = state.document.program.stages
    return bool(stages) and str(stages[0].moves[0].to).startswith("-")


_PAWL: tuple[GuideStep, ...] = (
    *_placing("base with two pins", "base", "-30,-40"),
    GuideStep(
        "Type 62 for its spacing on the right.",
        lambda s: _value(s, "base", "spacing") != "120 mm",
        "widget:dimension_base_spacing",
    ),
    GuideStep(
        "Type 5 for its pin.",
        lambda s: _value(s, "base", "pin") != "8 mm",
        "widget:dimension_base_pin",
    ),
    *_placing("ratchet wheel", "ratchet_wheel", "-100,40"),
    GuideStep(
        "Type 5.2 for its bore.",
        lambda s: _value(s, "ratchet_wheel", "bore") != "10 mm",
        "widget:dimension_ratchet_wheel_bore",
    ),
    GuideStep(
        "Drag the middle of the wheel onto the left pin of the base, let go, and press Enter.",
        lambda s: _joined(s.document, "ratchet_wheel", "base"),
        "drag:ratchet_wheel.centre>base.a",
    ),
    *_placing("pawl", "pawl", "100,60"),
    GuideStep(
        "Type -120 for its angle on the right.",
        lambda s: (
            _pawl_joint(s) is not None
            or any(
                b.part == "pawl" and str(b.pose.angle) not in ("0", "0.0")
                for b in s.document.bodies
            )
        ),
        "widget:pose_angle",
    ),
    GuideStep(
        "Drag the hole of the pawl onto the right pin of the base; Enter.",
        lambda s: _joined(s.document, "pawl", "base"),
        "drag:pawl.pivot>base.b",
    ),
    GuideStep(
        "A pawl gives: choose “a spring brings it back” for when it is pushed.",
        _pawl_yields,
        "widget:joint_yields",
    ),
    GuideStep(
        "Type -150 for its rest: the spring presses it against the wheel.",
        _pawl_rests,
        "widget:limit_rest",
    ),
    GuideStep(
        "Press D to relate wheel and pawl.", lambda s: s.tool == "join" or bool(s.document.contacts)
    ),
    GuideStep(
        "Click the ringed tip of a tooth of the wheel.",
        lambda s: s.picked >= 1 or bool(s.document.contacts),
        "place:ratchet_wheel.tip",
    ),
    GuideStep(
        "Click the tip of the pawl.",
        lambda s: s.picked >= 2 or bool(s.document.contacts),
        "place:pawl.tip",
    ),
    GuideStep(
        "No joint this time: press “pushes” below on the right.",
        lambda s: bool(s.document.contacts),
        "widget:tie_contact_push",
    ),
    GuideStep(
        "Click the pin of the wheel.",
        lambda s: s.selected == "ratchet_wheel on base" or bool(s.document.program.drivers),
        "place:ratchet_wheel.centre",
    ),
    GuideStep(
        "Press Drive on the right.",
        lambda s: bool(s.document.program.drivers),
        "widget:joint_drive",
    ),
    GuideStep(
        "It is driven the way that the pawl holds. Click the block on the strip below.",
        lambda s: s.selected == "stage" or _turns_back(s),
        "block:0",
    ),
    GuideStep(
        "Type -72 for where it goes: the other way, the pawl lets teeth pass.",
        _turns_back,
        "widget:target_0_ratchet_wheel",
    ),
    GuideStep("Press Space to see it run.", lambda s: s.played, "widget:play"),
    *_CHECKING,
    GuideStep("Press Space to stop it.", lambda s: not s.playing, "widget:play"),
    GuideStep(
        "Click the wheel on the stage.",
        lambda s: s.selected == "ratchet_wheel" or _value(s, "ratchet_wheel", "height") != "10 mm",
        "body:ratchet_wheel",
    ),
    GuideStep(
        "Type 11 for the height of its teeth on the right: the pawl swings farther.",
        lambda s: _value(s, "ratchet_wheel", "height") != "10 mm",
        "widget:dimension_ratchet_wheel_height",
    ),
)
_STEPS = {"four-bar": _FOUR_BAR, "cam": _CAM, "pawl": _PAWL}


def _cams(state: GuideState) -> bool:
    return any(part.cams for part in state.document.parts)


def steps_of(name: str) -> tuple[GuideStep, ...]:
    """The steps of a guided build."""
    return _STEPS[name]


def next_step(name: str, state: GuideState) -> tuple[int, GuideStep] | None:
    """The first step not yet done and its number from 1; None if all are."""
    for number, step in enumerate(_STEPS[name], start=1):
        if not step.is_done(state):
            return number, step
    return None
