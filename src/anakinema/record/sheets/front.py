"""The first sheet of a set: what it is, its verdict, cautions and contents; and its trials."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from anakinema.findings.hazards import cautions
from anakinema.findings.wording import verdict_words
from anakinema.record.sheets.layout import shortened
from anakinema.record.sheets.lines import Lines, in_pages, paragraph, width_of
from anakinema.record.sheets.paper import Text
from anakinema.record.sheets.papers import papers_up_to
from anakinema.record.sheets.sheet import Drawn, Leaf


def cover(drawn: Drawn, contents: Sequence[Leaf]) -> Leaf:
    """Title, revision, date, units, verdict, cautions, and the sheets that follow."""
    evaluation, settings = drawn.evaluation, drawn.settings
    document, units = evaluation.document, evaluation.document.units
    paper = papers_up_to(settings.paper)[0]
    lines: Lines = [[], *paragraph(document.name, paper, 8.0, strong=True), []]
    if document.note:
        lines += [*paragraph(document.note, paper, 3.2), []]
    pose = next((p.title for p in evaluation.source.poses if p.id == settings.pose), "")
    facts = (
        ("Revision", settings.revision),
        ("Date", settings.date),
        ("Drawn by", settings.drawn_by),
        ("Units", f"drawings in mm; the model in {units.length} and {units.angle}"),
        ("Projection", f"{settings.projection} angle"),
        ("Drawn at", pose),
        ("Verdict", verdict_words(evaluation)),
    )
    for name, words in facts:
        if words:
            beside = Text((34.0, 0.0), shortened(words, 3.0, width_of(paper) - 34), 3.0)
            lines.append([Text((0.0, 0.0), name, 3.0), beside])
    lines += [[], *paragraph("Sheets", paper, 3.6, strong=True)]
    for k, leaf in enumerate(contents, start=2):
        lines += paragraph(f"{k}   {leaf.subject}   {leaf.paper}", paper)
    lines += [[], *paragraph("Cautions", paper, 3.6, strong=True)]
    for words in cautions(evaluation):
        lines += paragraph(words, paper)
    lines += paragraph(
        "This is kinematics: no force, wear or life is looked at. Guards and loads are for local"
        " codes and a licensed engineer.",
        paper,
    )
    # What does not go on it is said on the sheets of the report.
    return Leaf("cover", "Cover", "Cover", paper, tuple(in_pages(lines, paper)[0]))


def trial_sheets(drawn: Drawn) -> Iterator[Leaf]:
    """What was tried, what it gave, and what was made of it."""
    trials = drawn.evaluation.source.trials
    if not trials:
        return
    paper = papers_up_to(drawn.settings.paper)[0]
    lines: Lines = []
    for trial in trials:
        said = ": ".join(each for each in (trial.decision, trial.reason) if each)
        lines += paragraph(f"{trial.title}   {trial.when}   {said}", paper, strong=True)
        numbers = "; ".join(
            f"{f'{n.part}, ' if n.part else ''}{n.name.replace('_', ' ')} = {n.value}"
            for n in trial.numbers
        )
        lines += paragraph(numbers or "numbers as they were", paper, 2.5, left=6.0)
        for result in trial.results:
            words = f"{result.outcome}: {result.title} {result.value}"
            lines += paragraph(words, paper, 2.5, left=6.0)
        lines.append([])
    for k, marks in enumerate(in_pages(lines, paper), start=1):
        yield Leaf(f"trials/{k}", "Trials", "Trials", paper, tuple(marks))
