"""Ready mechanisms, each evaluated once in a process: answers are values that nothing changes."""

from functools import cache

from anakinema.files.native import read_document
from anakinema.findings.evaluate import Evaluation, evaluate
from anakinema.resources import demo_path


@cache
def evaluated(name: str) -> Evaluation:
    """The whole answer of a ready mechanism."""
    return evaluate(read_document(demo_path(name)))
