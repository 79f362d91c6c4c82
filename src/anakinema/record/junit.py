"""The verdict as JUnit XML, which build servers read: a test case for each finding.

Its form is the one that the common schema of Jenkins describes (from memory): a failing finding is
a failure, one that cannot be judged an error, a warning passes and is told in the output.
"""

from __future__ import annotations

from xml.sax.saxutils import escape, quoteattr

from anakinema.findings.evaluate import Evaluation
from anakinema.findings.finding import Finding, Outcome
from anakinema.findings.wording import finding_line, value_words

NO_TEXT = {code: None for code in range(32) if code not in (9, 10, 13)}
"""Characters that no XML can hold."""


def junit_xml(evaluation: Evaluation) -> str:
    """All findings of an evaluation."""
    verdict = evaluation.verdict
    suite = _quoted(evaluation.source.name or "mechanism")
    counts = (
        f'tests="{len(verdict.findings)}" failures="{verdict.count(Outcome.FAIL)}"'
        f' errors="{verdict.count(Outcome.UNKNOWN)}"'
    )
    cases = "\n".join(_case(evaluation, suite, finding) for finding in verdict.findings)
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f"<testsuites>\n <testsuite name={suite} {counts}>\n{cases}\n </testsuite>\n</testsuites>\n"
    )


def _case(evaluation: Evaluation, suite: str, finding: Finding) -> str:
    line = finding_line(evaluation, finding)
    inner = f"   <system-out>{escape(line.translate(NO_TEXT))}</system-out>"
    element = {Outcome.FAIL: "failure", Outcome.UNKNOWN: "error"}.get(finding.outcome)
    if element is not None:
        message = _quoted(value_words(evaluation, finding))
        inner = f"   <{element} message={message} type={_quoted(finding.kind)}/>\n{inner}"
    return f"  <testcase classname={suite} name={_quoted(finding.title)}>\n{inner}\n  </testcase>"


def _quoted(words: str) -> str:
    return quoteattr(words.translate(NO_TEXT))
