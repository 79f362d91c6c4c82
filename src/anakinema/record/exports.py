"""What can leave the program as a file, for the Record drawer and the command line alike."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection
from dataclasses import dataclass

from anakinema.errors import FileFormatError
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.record.bodies_in_space import assembly_3mf, assembly_stl, parts_3mf, parts_stl
from anakinema.record.cam_tables import cams_csv
from anakinema.record.listed_parts import parts_csv, parts_list
from anakinema.record.part_drawing import assembly_dxf, parts_dxf, profiles_dxf
from anakinema.record.report import report_json, report_text
from anakinema.record.sheets.report_pages import report_sheets
from anakinema.record.sheets.sheet import Drawn, Sheet, numbered
from anakinema.record.sheets.sheet_set import leaves_of, sheet_set
from anakinema.record.sheets.templates import all_templates, card_model, templates
from anakinema.record.sheets.writers import pdf, svg
from anakinema.record.table import motion_csv
from anakinema.record.workbook import workbook


@dataclass(frozen=True, slots=True)
class Export:
    """A file that can be written of an evaluation.

    group : of the list it stands in. title, why : for people. name : of the file, behind that of
    the mechanism. content : makes all of it, of bodies at poses (B, 3) where it shows any.
    """

    id: str
    group: str
    title: str
    why: str
    name: str
    content: Callable[[Evaluation, Floats], bytes]

    @property
    def suffix(self) -> str:
        """What its file's name ends with, without the point."""
        return self.name.rpartition(".")[2]


def _text(make: Callable[[Evaluation], str]) -> Callable[[Evaluation, Floats], bytes]:
    return lambda evaluation, _: make(evaluation).encode()


def _json(evaluation: Evaluation) -> str:
    return json.dumps(report_json(evaluation), indent=1, ensure_ascii=False) + "\n"


def _sheets(
    evaluation: Evaluation, poses: Floats, kinds: Collection[str] | None = None
) -> list[Sheet]:
    found = sheet_set(evaluation, poses, kinds)
    if not found:
        raise FileFormatError(
            "there is nothing to draw in it.",
            where=f"mechanism '{evaluation.document.name}'",
            remedy="Put a part on the stage first.",
        )
    return found


def _drawn(evaluation: Evaluation, poses: Floats) -> Drawn:
    return Drawn(evaluation, poses, parts_list(evaluation.resolved))


def _card(evaluation: Evaluation, poses: Floats) -> list[Sheet]:
    """The pieces, then how they go together."""
    steps = leaves_of(evaluation, poses, "steps")
    return [
        *card_model(_drawn(evaluation, poses)),
        *numbered(steps, evaluation.document.name, evaluation.source.sheets),
    ]


EXPORTS = (
    Export(
        "sheets",
        "On paper",
        "Drawings on paper…",
        "All sheets: arrangement, section, exploded view, steps, parts, verdict, motion, as PDF.",
        "drawings.pdf",
        lambda evaluation, poses: pdf(_sheets(evaluation, poses), evaluation.document.name),
    ),
    Export(
        "pages",
        "On paper",
        "Report on paper…",
        "Verdict with margins and how sure it is, cautions, curves and events, as PDF.",
        "report.pdf",
        lambda evaluation, _: pdf(report_sheets(evaluation), evaluation.document.name),
    ),
    Export(
        "arrangement",
        "On paper",
        "Arrangement as a picture…",
        "All of it square from above, with true arcs, as SVG.",
        "arrangement.svg",
        lambda evaluation, poses: svg(_sheets(evaluation, poses, ("arrangement",))[-1]).encode(),
    ),
    Export(
        "parts",
        "For the workshop",
        "Parts list as a table…",
        "Item numbers, quantities, materials, thickness and mass, as CSV.",
        "parts.csv",
        _text(parts_csv),
    ),
    Export(
        "outlines",
        "For the workshop",
        "Outlines of the parts…",
        "Closed lines and arcs at 1:1, holes on their own layer, as DXF.",
        "parts.dxf",
        lambda evaluation, _: parts_dxf(evaluation),
    ),
    Export(
        "stand",
        "For the workshop",
        "Outlines as they stand…",
        "All bodies at the pose on show, each item on its own layer, as DXF.",
        "assembly.dxf",
        lambda evaluation, poses: assembly_dxf(evaluation, poses),
    ),
    Export(
        "profiles",
        "For the workshop",
        "Cams and toothed wheels…",
        "Profiles, ways of followers' centres and outlines of wheels at 1:1, as DXF.",
        "profiles.dxf",
        lambda evaluation, _: profiles_dxf(evaluation),
    ),
    Export(
        "cams",
        "For the workshop",
        "Cams in numbers…",
        "Lift, its derivatives, pressure angle, curvature and profile by the degree, as CSV.",
        "cams.csv",
        _text(cams_csv),
    ),
    Export(
        "templates",
        "To cut by hand",
        "Templates to cut by…",
        "Made parts at 1:1 tiled over small sheets, with a length to check, as PDF.",
        "templates.pdf",
        lambda evaluation, poses: pdf(
            templates(_drawn(evaluation, poses)), evaluation.document.name
        ),
    ),
    Export(
        "laying",
        "To cut by hand",
        "Templates in one piece…",
        "Made parts at 1:1 beside one another, as SVG.",
        "templates.svg",
        lambda evaluation, poses: svg(all_templates(_drawn(evaluation, poses))).encode(),
    ),
    Export(
        "card",
        "To cut by hand",
        "Card model…",
        "All pieces to cut out of card at scale, holes for paper fasteners, and steps, as PDF.",
        "card.pdf",
        lambda evaluation, poses: pdf(_card(evaluation, poses), evaluation.document.name),
    ),
    Export(
        "model",
        "Models",
        "Model to print or view…",
        "All bodies as they stand on show, with names and colours, as 3MF.",
        "assembly.3mf",
        lambda evaluation, poses: assembly_3mf(evaluation.resolved, poses),
    ),
    Export(
        "printing",
        "Models",
        "Parts to print…",
        "Each made part once, flat and side by side, as 3MF.",
        "parts.3mf",
        lambda evaluation, _: parts_3mf(evaluation.resolved),
    ),
    Export(
        "meshes",
        "Models",
        "Parts as a plain mesh…",
        "The same as one mesh in mm, as STL.",
        "parts.stl",
        lambda evaluation, _: parts_stl(evaluation.resolved),
    ),
    Export(
        "mesh",
        "Models",
        "Plain mesh…",
        "The same as one mesh in mm, as STL.",
        "assembly.stl",
        lambda evaluation, poses: assembly_stl(evaluation.resolved, poses),
    ),
    Export(
        "workbook",
        "Numbers",
        "Spreadsheet…",
        "Motion and parts list, with a chart, as XLSX.",
        "motion.xlsx",
        lambda evaluation, _: workbook(evaluation),
    ),
    Export(
        "table",
        "Numbers",
        "Motion table…",
        "Every step with poses, joint values, velocities and accelerations, as CSV.",
        "motion.csv",
        _text(motion_csv),
    ),
    Export(
        "report",
        "Numbers",
        "Verdict report…",
        "Findings, events and mobility, as JSON for other programs.",
        "verdict.json",
        _text(_json),
    ),
    Export(
        "words",
        "Numbers",
        "Verdict in words…",
        "The same as lines of text, to be read or mailed.",
        "verdict.txt",
        _text(lambda evaluation: report_text(evaluation) + "\n"),
    ),
)
