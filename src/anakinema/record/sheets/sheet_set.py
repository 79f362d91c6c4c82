"""All kinds of sheets in one table, a whole set of them, and what changed since it was issued."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

from anakinema.document.model import Issue, IssuedSheet, IssuedSize
from anakinema.findings.evaluate import Evaluation
from anakinema.geometry.contour import Floats
from anakinema.record.listed_parts import parts_list
from anakinema.record.sheets.arrangement import arrangement
from anakinema.record.sheets.cutting import section_sheet
from anakinema.record.sheets.dimensions import length_words
from anakinema.record.sheets.front import cover, trial_sheets
from anakinema.record.sheets.paper import Mark, Shape, Text
from anakinema.record.sheets.part_sheets import part_sheets, parts_table
from anakinema.record.sheets.report_pages import curve_pages, event_pages, verdict_pages
from anakinema.record.sheets.sheet import Drawn, Leaf, Sheet, numbered
from anakinema.record.sheets.stack_sheets import exploded_sheet, step_sheets
from anakinema.record.sheets.standard_views import standard_views
from anakinema.wanted import still_wanted


@dataclass(frozen=True, slots=True)
class SheetKind:
    """A kind of sheets: what it is called, and what makes the leaves of it."""

    id: str
    title: str
    make: Callable[[Drawn], Iterator[Leaf]]


SHEET_KINDS = (
    SheetKind("arrangement", "General arrangement", arrangement),
    SheetKind("views", "Arrangement from three sides", standard_views),
    SheetKind("section", "Section through the stack", section_sheet),
    SheetKind("exploded", "Exploded view", exploded_sheet),
    SheetKind("steps", "Assembly steps", step_sheets),
    SheetKind("list", "Parts list", parts_table),
    SheetKind("parts", "Made parts", part_sheets),
    SheetKind("verdict", "Verdict", verdict_pages),
    SheetKind("motion", "Motion over time", curve_pages),
    SheetKind("events", "Events", event_pages),
    SheetKind("trials", "Trials", trial_sheets),
)


def leaves_of(evaluation: Evaluation, poses: Floats, kind: str) -> tuple[Leaf, ...]:
    """All sheets of a kind, without their numbers, drawn at poses (B, 3)."""
    still_wanted()
    drawn = Drawn(evaluation, poses, parts_list(evaluation.resolved))
    return tuple(next(each for each in SHEET_KINDS if each.id == kind).make(drawn))


def sheet_set(
    evaluation: Evaluation, poses: Floats, kinds: Collection[str] | None = None
) -> list[Sheet]:
    """A cover and all sheets of the kinds named (all, where none are); nothing of no mechanism."""
    wanted = [each.id for each in SHEET_KINDS if kinds is None or each.id in kinds]
    return as_set(
        evaluation, [leaf for kind in wanted for leaf in leaves_of(evaluation, poses, kind)]
    )


def as_set(evaluation: Evaluation, leaves: Sequence[Leaf]) -> list[Sheet]:
    """Leaves with a cover, numbered; nothing of no mechanism."""
    drawn = Drawn(evaluation, evaluation.motion.poses[0], ())
    if not evaluation.document.bodies or not leaves:
        return []
    return numbered([cover(drawn, leaves), *leaves], evaluation.document.name, drawn.settings)


def issue_of(sheets: Sequence[Sheet], revision: str, date: str) -> Issue:
    """Sheets as they are, to be kept with the document."""
    return Issue(
        revision=revision,
        date=date,
        sheets=tuple(
            IssuedSheet(
                key=sheet.leaf.key,
                digest=_digest(sheet.leaf),
                sizes=tuple(
                    IssuedSize(key=each.key, value=round(each.value, 9))
                    for each in sheet.leaf.dimensions
                ),
            )
            for sheet in sheets
            if sheet.leaf.key != "cover"
        ),
    )


def changes_since(issue: Issue, sheets: Sequence[Sheet]) -> Mapping[str, str]:
    """By the key of a sheet what is otherwise than issued, in words; sheets that are not changed
    are left out. Sheets that are no more stand there with their key."""
    before = {sheet.key: sheet for sheet in issue.sheets}
    found: dict[str, str] = {}
    for sheet in sheets:
        leaf = sheet.leaf
        if leaf.key == "cover":
            continue
        old = before.pop(leaf.key, None)
        if old is None:
            found[leaf.key] = "new"
        elif old.digest != _digest(leaf):
            found[leaf.key] = ", ".join(_sizes_changed(old, leaf)) or "what is drawn changed"
    return {**found, **dict.fromkeys(before, "no longer there")}


def _sizes_changed(old: IssuedSheet, leaf: Leaf) -> Iterator[str]:
    was = {each.key: each.value for each in old.sizes}
    now = {each.key: each.value for each in leaf.dimensions}
    for key in dict.fromkeys([*was, *now]):
        name = key.rpartition("/")[2]
        one, two = was.get(key), now.get(key)
        if one is None or two is None:
            yield f"{name} {'added' if one is None else 'left out'}"
        elif abs(one - two) > 1e-6:
            yield f"{name} {length_words(one)} to {length_words(two)}"


def _digest(leaf: Leaf) -> str:
    """Of what is drawn, the title block left out: it changes with every revision."""
    words = "\n".join(_told(mark) for mark in leaf.marks)
    return hashlib.sha256(words.encode()).hexdigest()[:16]


def _told(mark: Mark) -> str:
    """A mark in words, coordinates to what can be seen on paper."""
    if isinstance(mark, Text):
        return f"{mark.at[0]:.3f} {mark.at[1]:.3f} {mark.words}"
    lines = mark.rings if isinstance(mark, Shape) else (mark,)
    places = (place for line in lines for place in (line.start, *(edge.to for edge in line.edges)))
    return " ".join(f"{x:.3f} {y:.3f}" for x, y in places)
