"""The open work: document, history, newest results; and what views may show of them.

Views import results and words from here, never from the stages that make them.
"""

from anakinema.analysis.reach import Reach
from anakinema.building.camming import CamWish
from anakinema.building.contacting import ContactDraft
from anakinema.building.doubts import Doubt
from anakinema.building.join_words import join_words
from anakinema.building.joining import Proposal
from anakinema.building.marking import marked
from anakinema.building.measuring import Reading
from anakinema.building.openings import (
    arc_slot,
    curved_slot,
    line_arc_slot,
    new_slab,
    place_beside,
    place_midway,
    round_hole,
    slot_hole,
)
from anakinema.building.placing import placed_at
from anakinema.building.rekinding import rekinded
from anakinema.building.relating import (
    KeptState,
    Way,
    following,
    kept_state,
    outcome,
    placings,
    possible,
    present_value,
    traces,
    ways,
)
from anakinema.building.repeating import Repeat
from anakinema.building.skeleton import DRESSES, is_stick
from anakinema.building.spots import BodySpot, all_spots, spots_at, spots_of
from anakinema.building.starting import started_at
from anakinema.building.wishes import Wish, likely_kind, likely_radius
from anakinema.files.drawing import Drawing
from anakinema.findings.cautions import cautions
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.event_wording import (
    event_words,
    guide_words,
    reach_words,
    standing_words,
    window_words,
)
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.mobility_wording import mobility_words
from anakinema.findings.value_wording import joint_value_words, progress_words
from anakinema.findings.wording import (
    asked_words,
    finding_facts,
    finding_why,
    value_words,
    verdict_words,
)
from anakinema.motion.windows import contact_windows
from anakinema.record.exports import EXPORTS, Export
from anakinema.session.assembling import (
    Scene,
    StackSection,
    Trial,
    body_spot_like,
    curve_line,
    curve_names,
    doubts_of,
    drawn,
    dressing,
    drive,
    gap_now,
    is_joined,
    joint_value,
    kept_measure,
    lifted_body,
    made_one,
    measure_now,
    measures_now,
    outermost,
    part_outlines,
    proposals,
    rehanging,
    rejoin,
    removal,
    stack_faces,
    stack_section,
    stick,
    zero_here,
)
from anakinema.session.borrowing import Lender, open_lender, renew_unit, take_unit
from anakinema.session.camming import (
    CamView,
    ProfileForm,
    base_that_meets,
    cam_view,
    cams_in,
    make_cam,
    pasted_lift,
    profile_table,
)
from anakinema.session.chain import ChainMap, chain_map
from anakinema.session.contacting import TouchLimit, contact, touch_limit, touchable, yielding
from anakinema.session.coupling import CouplingOffer, couplable, couple, coupling_offers, size_words
from anakinema.session.gauges import Bound, Gauge, gauges, limit_edit, progress_with, value_at
from anakinema.session.gripping import StageGrip, stage_grips
from anakinema.session.guide import STEPS as GUIDE_STEPS
from anakinema.session.guide import GuideState, next_step
from anakinema.session.hand import HandDrive
from anakinema.session.importing import (
    IMPORT_UNITS,
    Preview,
    imported,
    likely_unit,
    open_drawing,
    preview,
)
from anakinema.session.lanes import Lane, lanes
from anakinema.session.looping import loop, loop_lines, told_of_loop, turning_joints
from anakinema.session.neighbours import Neighbour, drawn_in_place, neighbours, sizes_of
from anakinema.session.playback import Playback
from anakinema.session.programming import pasted_program
from anakinema.session.recovery import LeftBehind, left_behind
from anakinema.session.repeating import (
    RepeatWish,
    carrier,
    inner_body,
    inner_joints,
    outer_joints,
    places_offered,
    repeat,
    unit_again,
    unit_apart,
    unit_of,
    use_of,
)
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
from anakinema.session.shaping import (
    Kept,
    corners_of,
    elements_of,
    just_set,
    kept_of,
    outline_keys,
    part_operation,
    ring_of,
    sound,
)

__all__ = [
    "DRESSES",
    "EXPORTS",
    "GUIDE_STEPS",
    "IMPORT_UNITS",
    "BodySpot",
    "Bound",
    "CamView",
    "CamWish",
    "ChainMap",
    "ContactDraft",
    "CouplingOffer",
    "Doubt",
    "Drawing",
    "Drawn",
    "Evaluation",
    "Export",
    "FileChangedError",
    "Finding",
    "Gauge",
    "GuideState",
    "HandDrive",
    "Kept",
    "KeptState",
    "Lane",
    "LeftBehind",
    "Lender",
    "Neighbour",
    "Outcome",
    "Playback",
    "Preview",
    "ProfileForm",
    "Proposal",
    "Reach",
    "Reading",
    "Repeat",
    "RepeatWish",
    "Scene",
    "Session",
    "Settings",
    "StackSection",
    "StageGrip",
    "TouchLimit",
    "Trial",
    "Way",
    "Wish",
    "all_spots",
    "answers",
    "arc_slot",
    "asked_words",
    "base_that_meets",
    "beside",
    "body_spot_like",
    "cam_view",
    "cams_in",
    "carrier",
    "cautions",
    "chain_map",
    "contact",
    "contact_windows",
    "corners_of",
    "couplable",
    "couple",
    "coupling_offers",
    "curve_line",
    "curve_names",
    "curved_slot",
    "doubts_of",
    "drawn",
    "drawn_in_place",
    "dressing",
    "drive",
    "driver_ranges",
    "elements_of",
    "event_words",
    "finding_facts",
    "finding_why",
    "following",
    "gap_now",
    "gauges",
    "guide_words",
    "imported",
    "inner_body",
    "inner_joints",
    "is_joined",
    "is_stick",
    "join_words",
    "joint_value",
    "joint_value_words",
    "just_set",
    "kept_measure",
    "kept_of",
    "kept_state",
    "lanes",
    "left_behind",
    "lifted_body",
    "likely_kind",
    "likely_radius",
    "likely_unit",
    "limit_edit",
    "line_arc_slot",
    "loop",
    "loop_lines",
    "made_one",
    "make_cam",
    "marked",
    "measure_now",
    "measures_now",
    "mobility_words",
    "neighbours",
    "new_slab",
    "next_step",
    "open_drawing",
    "open_lender",
    "outcome",
    "outer_joints",
    "outermost",
    "outline_keys",
    "part_operation",
    "part_outlines",
    "pasted_lift",
    "pasted_program",
    "place_beside",
    "place_midway",
    "placed_at",
    "places_offered",
    "placings",
    "poses_at",
    "possible",
    "present_value",
    "preview",
    "profile_table",
    "progress_with",
    "progress_words",
    "proposals",
    "reach_words",
    "rehanging",
    "rejoin",
    "rekinded",
    "removal",
    "renew_unit",
    "repeat",
    "ring_of",
    "round_hole",
    "size_words",
    "sizes_of",
    "slot_hole",
    "sound",
    "spots_at",
    "spots_of",
    "stack_faces",
    "stack_section",
    "stage_grips",
    "standing_words",
    "started_at",
    "stick",
    "take_unit",
    "told_of_loop",
    "touch_limit",
    "touchable",
    "traces",
    "turning_joints",
    "unit_again",
    "unit_apart",
    "unit_of",
    "use_of",
    "value_at",
    "value_words",
    "verdict_words",
    "ways",
    "window_words",
    "write_export",
    "yielding",
    "zero_here",
]
