"""What the command line answers without a window: verdicts, changes, tables, files."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path

from anakinema.authoring.posing import poses_to_draw, stood
from anakinema.errors import FileFormatError, MissingNameError
from anakinema.files.native import read_document, write_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.findings.finding import Outcome
from anakinema.record.exports import EXPORTS
from anakinema.record.junit import junit_xml
from anakinema.record.report import report_json, report_text
from anakinema.record.table import motion_csv
from anakinema.remedies import (
    Cluster,
    Evaluator,
    Goal,
    Inline,
    Processes,
    change_words,
    edit_to,
    effects_words,
    improve,
    outcome_words,
    progress_words,
    range_of,
    remedies,
)
from anakinema.wanted import under_watch
from anakinema.writing import write_bytes, write_text


def answer(options: argparse.Namespace, tell: Callable[[str], None]) -> int:
    """Read and evaluate a file and do what is asked with it; gives the exit status.

    ``tell`` hears what is being done. Raises an `AnakinemaError` for a file that cannot be read
    or evaluated, and for what cannot be written.
    """
    with under_watch(lambda: None, tell):
        evaluation = evaluate(read_document(options.file))
    if options.command == "check":
        return _check(evaluation, options)
    if options.command == "improve":
        return _improve(evaluation, options)
    if options.command == "export":
        return _export(evaluation, options)
    return _sweep(evaluation, options.csv, points=options.points)


def _check(evaluation: Evaluation, options: argparse.Namespace) -> int:
    changes = _changes(evaluation) if options.changes else {}
    if options.json:
        report = report_json(evaluation)
        if options.changes:
            report["changes"] = changes
        print(json.dumps(report, indent=1, ensure_ascii=False))
    elif options.junit != "-":
        print(report_text(evaluation))
        for title, found in changes.items():
            print(f"\nChanges that would let '{title}' pass:" if found else "", end="")
            print("".join(f"\n  {each['change']}: {each['effects']}" for each in found))
            if not found:
                print(f"\nNo change of one or two named numbers was found for '{title}'.")
    if options.junit == "-":
        print(junit_xml(evaluation), end="")
    elif options.junit:
        write_text(junit_xml(evaluation), Path(options.junit))
    return evaluation.verdict.exit_status


def _changes(evaluation: Evaluation) -> dict[str, list[dict[str, str]]]:
    """What would let each failing finding pass, best first, in words."""
    asked = {requirement.id for requirement in evaluation.document.requirements}
    return {
        finding.title: [
            {"change": change_words(each), "effects": effects_words(evaluation, each)}
            for each in sorted(remedies(evaluation, finding.id), key=lambda found: found.rank)
        ]
        for finding in evaluation.verdict.findings
        if finding.outcome is Outcome.FAIL and finding.id in asked
    }


def _improve(evaluation: Evaluation, options: argparse.Namespace) -> int:
    ranges = tuple(range_of(evaluation, text) for text in options.change)
    goal = Goal(options.goal, options.sense)
    if options.cluster:
        evaluator: Evaluator = Cluster(options.cluster)
    elif options.processes > 1:
        evaluator = Processes(options.processes)
    else:
        evaluator = Inline(evaluation)
    last = None
    try:
        for last in improve(evaluation, goal, ranges, evaluator):
            print(progress_words(evaluation, goal, last), file=sys.stderr)
    finally:
        evaluator.close()
    assert last is not None
    print("\n".join(outcome_words(evaluation, goal, ranges, last)))
    if options.out:
        write_document(edit_to(ranges, last.best).apply(evaluation.source), options.out)
    return 0 if last.best.passes else 1


def _export(evaluation: Evaluation, options: argparse.Namespace) -> int:
    names = {each.name: each for each in EXPORTS}
    wanted = list(names) if options.what == "all" else options.what.split(",")
    for name in wanted:
        if name not in names:
            raise MissingNameError(
                f"'{name}' cannot be written.",
                where="--what",
                remedy=f"Known are: {', '.join(names)}.",
            )
    poses = poses_to_draw(evaluation, evaluation.motion.poses[0])
    if options.pose is not None:
        kept = {word: pose for pose in evaluation.source.poses for word in (pose.id, pose.title)}
        if options.pose not in kept:
            titles = ", ".join(pose.title for pose in evaluation.source.poses) or "none"
            raise MissingNameError(
                f"no pose is kept as '{options.pose}'.",
                where="--pose",
                remedy=f"Kept are: {titles}.",
            )
        found = stood(evaluation.resolved, kept[options.pose])
        if found.reason:
            print(f"anakinema: {options.pose}: {found.reason}", file=sys.stderr)
        poses = found.poses
    folder = Path(options.folder)
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileFormatError(
            f"it cannot be made: {error.strerror}.",
            where=f"folder {folder}",
            remedy="Choose another folder.",
        ) from error
    for name in wanted:
        path = folder / f"{Path(options.file).stem}-{name}"
        try:
            content = names[name].content(evaluation, poses)
        except FileFormatError as error:
            if options.what != "all":
                raise
            # Of all that there is only what this mechanism has.
            print(f"anakinema: {name}: {error.what}", file=sys.stderr)
            continue
        write_bytes(content, path)
        print(path)
    return 0


def _sweep(evaluation: Evaluation, out: str, *, points: bool) -> int:
    text = motion_csv(evaluation, points=points)
    if out == "-":
        print(text, end="")
    else:
        write_text(text, Path(out))
    return evaluation.verdict.exit_status
