"""The open work: document, history, newest results; and what views may show of them.

Views import results and words from here, never from the stages that make them.
"""

from anakinema.analysis.reach import Reach
from anakinema.building.doubts import Doubt
from anakinema.building.joining import (
    Proposal,
    Wish,
    join_words,
    likely_kind,
    likely_radius,
    rekinded,
)
from anakinema.building.measuring import Reading
from anakinema.building.placing import placed_at
from anakinema.building.repeating import Repeat
from anakinema.building.skeleton import DRESSES, is_stick
from anakinema.building.spots import BodySpot, all_spots, spots_at, spots_of
from anakinema.files.outlines import Drawing
from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import (
    asked_words,
    cautions,
    event_words,
    finding_facts,
    finding_why,
    joint_value_words,
    mobility_words,
    progress_words,
    reach_words,
    value_words,
    verdict_words,
)
from anakinema.session.assembling import (
    Scene,
    StackSection,
    Trial,
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
    part_outlines,
    proposals,
    rehanging,
    removal,
    stack_faces,
    stack_section,
    stick,
    zero_here,
)
from anakinema.session.autosave import left_behind
from anakinema.session.chain import ChainMap, chain_map
from anakinema.session.gauges import Gauge, gauges
from anakinema.session.guide import STEPS as GUIDE_STEPS
from anakinema.session.guide import GuideState, next_step
from anakinema.session.importing import (
    IMPORT_UNITS,
    Preview,
    imported,
    likely_unit,
    open_drawing,
    preview,
)
from anakinema.session.lanes import Lane, lanes
from anakinema.session.playback import Playback
from anakinema.session.repeating import (
    RepeatWish,
    repeat,
    unit_again,
    unit_apart,
    unit_of,
    use_of,
)
from anakinema.session.session import (
    Drawn,
    Session,
    answers,
    driver_ranges,
    export_report,
    export_table,
    poses_at,
)
from anakinema.session.settings import Settings
from anakinema.session.shaping import (
    arc_slot,
    corners_of,
    new_slab,
    outline_keys,
    part_operation,
    ring_of,
    round_hole,
    slot_hole,
    sound,
)

__all__ = [
    "DRESSES",
    "GUIDE_STEPS",
    "IMPORT_UNITS",
    "BodySpot",
    "ChainMap",
    "Doubt",
    "Drawing",
    "Drawn",
    "Evaluation",
    "Finding",
    "Gauge",
    "GuideState",
    "Lane",
    "Outcome",
    "Playback",
    "Preview",
    "Proposal",
    "Reach",
    "Reading",
    "Repeat",
    "RepeatWish",
    "Scene",
    "Session",
    "Settings",
    "StackSection",
    "Trial",
    "Wish",
    "all_spots",
    "answers",
    "arc_slot",
    "asked_words",
    "cautions",
    "chain_map",
    "corners_of",
    "doubts_of",
    "drawn",
    "dressing",
    "drive",
    "driver_ranges",
    "event_words",
    "export_report",
    "export_table",
    "finding_facts",
    "finding_why",
    "gap_now",
    "gauges",
    "imported",
    "is_joined",
    "is_stick",
    "join_words",
    "joint_value",
    "joint_value_words",
    "kept_measure",
    "lanes",
    "left_behind",
    "lifted_body",
    "likely_kind",
    "likely_radius",
    "likely_unit",
    "made_one",
    "measure_now",
    "measures_now",
    "mobility_words",
    "new_slab",
    "next_step",
    "open_drawing",
    "outline_keys",
    "part_operation",
    "part_outlines",
    "placed_at",
    "poses_at",
    "preview",
    "progress_words",
    "proposals",
    "reach_words",
    "rehanging",
    "rekinded",
    "removal",
    "repeat",
    "ring_of",
    "round_hole",
    "slot_hole",
    "sound",
    "spots_at",
    "spots_of",
    "stack_faces",
    "stack_section",
    "stick",
    "unit_again",
    "unit_apart",
    "unit_of",
    "use_of",
    "value_words",
    "verdict_words",
    "zero_here",
]
