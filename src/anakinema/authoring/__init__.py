"""What a designer does to a mechanism, worked out before it is done.

A *scene* is what stands on the stage. Everything here looks at one and gives edits, or says what
they would come to: places and joins, copies and units, couplings, belts and contacts, cams and
outlines, doubts about what was built. Nothing changes a document but the edits themselves.
"""

from anakinema.authoring.asking import (
    Present,
    asked_dimension,
    filled,
    first_wish,
    present,
    requirement_of,
    shown_measure,
)
from anakinema.authoring.asking_wish import AskingWish
from anakinema.authoring.belting import belt, belt_lines, stated_of_belt, turning_joints
from anakinema.authoring.borrowing import Lender, open_lender, renew_unit, take_unit
from anakinema.authoring.cam_parts import CamWish
from anakinema.authoring.cam_views import (
    CamView,
    ProfileForm,
    base_that_meets,
    cam_view,
    cams_in,
    make_cam,
    pasted_lift,
    profile_table,
)
from anakinema.authoring.chain import ChainMap, chain_map
from anakinema.authoring.contacting import (
    ContactDraft,
    TouchLimit,
    contact,
    touch_limit,
    touchable,
    yielding,
)
from anakinema.authoring.coupling import (
    CouplingOffer,
    couplable,
    couple,
    coupling_offers,
    size_words,
)
from anakinema.authoring.diagnostics import Diagnostic
from anakinema.authoring.gauge import (
    Bound,
    Gauge,
    gauges,
    limit_edit,
    progress_with,
    shown_value,
    value_at,
)
from anakinema.authoring.gripping import StageGrip, stage_grips
from anakinema.authoring.hardware import InStep, put_hardware
from anakinema.authoring.importing import (
    IMPORT_UNITS,
    Preview,
    imported,
    likely_unit,
    open_drawing,
    preview,
)
from anakinema.authoring.join_wording import join_words
from anakinema.authoring.joining import Proposal
from anakinema.authoring.laying import moved_to_plane, plane_on_face, square_plane
from anakinema.authoring.marking import marked
from anakinema.authoring.marks_of_ties import ConnectionMark, belt_near, connection_marks
from anakinema.authoring.measuring import Reading
from anakinema.authoring.neighbourhood import Neighbour, drawn_in_place, neighbours, sizes_of
from anakinema.authoring.openings import (
    arc_slot,
    curved_slot,
    line_arc_slot,
    new_slab,
    place_beside,
    place_midway,
    round_hole,
    slot_hole,
)
from anakinema.authoring.pin_stacks import held_together, pin_stack
from anakinema.authoring.pin_wording import fastening
from anakinema.authoring.placing import placed_at
from anakinema.authoring.posing import Stood, kept_pose, poses_to_draw, stood, way_to
from anakinema.authoring.programming import pasted_program
from anakinema.authoring.question_kinds import (
    at_values,
    is_typed,
    joiner,
    others,
    questions,
    spans,
    subjects,
    usual_bound,
    wish_of,
)
from anakinema.authoring.rekinding import rekinded
from anakinema.authoring.relating import (
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
from anakinema.authoring.repeat_wishes import (
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
from anakinema.authoring.repeating import Repeat
from anakinema.authoring.reshaping import (
    corners_of,
    elements_of,
    just_set,
    kept_of,
    outline_keys,
    part_operation,
    ring_of,
    sound,
)
from anakinema.authoring.scene import Scene, curve_line, curve_names, drawn, is_joined, outermost
from anakinema.authoring.scene_edits import (
    diagnostics_of,
    dressing,
    drive,
    made_one,
    part_outlines,
    proposals,
    rehanging,
    rejoin,
    removal,
    stick,
    zero_here,
)
from anakinema.authoring.scene_measures import (
    gap_now,
    kept_measure,
    measure_now,
    measures_now,
    placed_snap_like,
)
from anakinema.authoring.seating import seated, seats_itself, snap_on_axis
from anakinema.authoring.skeleton import DRESSES, is_stick
from anakinema.authoring.snap_points import PlacedSnap, all_snaps, snaps_at
from anakinema.authoring.stacking import StackSection, lifted_body, rested_height, stack_section
from anakinema.authoring.starting import stage_to, started_at
from anakinema.authoring.suggesting import Suggestion, suggested
from anakinema.authoring.tracing import (
    Trace,
    TracedPoint,
    kept_paths,
    trace_of,
    trace_place,
    traced_places,
    traced_point,
)
from anakinema.authoring.trial import Trial
from anakinema.authoring.tying import Tie, ties_of
from anakinema.authoring.wishes import Wish, is_across, level_wish, likely_kind, likely_radius
from anakinema.motion.kept_poses import passes

__all__ = [
    "DRESSES",
    "IMPORT_UNITS",
    "AskingWish",
    "Bound",
    "CamView",
    "CamWish",
    "ChainMap",
    "ConnectionMark",
    "ContactDraft",
    "CouplingOffer",
    "Diagnostic",
    "Gauge",
    "InStep",
    "Lender",
    "Neighbour",
    "PlacedSnap",
    "Present",
    "Preview",
    "ProfileForm",
    "Proposal",
    "Reading",
    "Repeat",
    "RepeatWish",
    "Scene",
    "StackSection",
    "StageGrip",
    "Stood",
    "Suggestion",
    "Tie",
    "TouchLimit",
    "Trace",
    "TracedPoint",
    "Trial",
    "Way",
    "Wish",
    "all_snaps",
    "arc_slot",
    "asked_dimension",
    "at_values",
    "base_that_meets",
    "belt",
    "belt_lines",
    "belt_near",
    "cam_view",
    "cams_in",
    "carrier",
    "chain_map",
    "connection_marks",
    "contact",
    "corners_of",
    "couplable",
    "couple",
    "coupling_offers",
    "curve_line",
    "curve_names",
    "curved_slot",
    "diagnostics_of",
    "drawn",
    "drawn_in_place",
    "dressing",
    "drive",
    "elements_of",
    "fastening",
    "filled",
    "first_wish",
    "following",
    "gap_now",
    "gauges",
    "held_together",
    "imported",
    "inner_body",
    "inner_joints",
    "is_across",
    "is_joined",
    "is_stick",
    "is_typed",
    "join_words",
    "joiner",
    "just_set",
    "kept_measure",
    "kept_of",
    "kept_paths",
    "kept_pose",
    "kept_state",
    "level_wish",
    "lifted_body",
    "likely_kind",
    "likely_radius",
    "likely_unit",
    "limit_edit",
    "line_arc_slot",
    "made_one",
    "make_cam",
    "marked",
    "measure_now",
    "measures_now",
    "moved_to_plane",
    "neighbours",
    "new_slab",
    "open_drawing",
    "open_lender",
    "others",
    "outcome",
    "outer_joints",
    "outermost",
    "outline_keys",
    "part_operation",
    "part_outlines",
    "passes",
    "pasted_lift",
    "pasted_program",
    "pin_stack",
    "place_beside",
    "place_midway",
    "placed_at",
    "placed_snap_like",
    "places_offered",
    "placings",
    "plane_on_face",
    "poses_to_draw",
    "possible",
    "present",
    "present_value",
    "preview",
    "profile_table",
    "progress_with",
    "proposals",
    "put_hardware",
    "questions",
    "rehanging",
    "rejoin",
    "rekinded",
    "removal",
    "renew_unit",
    "repeat",
    "requirement_of",
    "rested_height",
    "ring_of",
    "round_hole",
    "seated",
    "seats_itself",
    "shown_measure",
    "shown_value",
    "size_words",
    "sizes_of",
    "slot_hole",
    "snap_on_axis",
    "snaps_at",
    "sound",
    "spans",
    "square_plane",
    "stack_section",
    "stage_grips",
    "stage_to",
    "started_at",
    "stated_of_belt",
    "stick",
    "stood",
    "subjects",
    "suggested",
    "take_unit",
    "ties_of",
    "touch_limit",
    "touchable",
    "trace_of",
    "trace_place",
    "traced_places",
    "traced_point",
    "traces",
    "turning_joints",
    "unit_again",
    "unit_apart",
    "unit_of",
    "use_of",
    "usual_bound",
    "value_at",
    "way_to",
    "ways",
    "wish_of",
    "yielding",
    "zero_here",
]
