"""Files that come in: the document's own, and drawings from strangers, read within bounds."""

from anakinema.files.bounded import read_regular
from anakinema.files.drawing import Drawing
from anakinema.files.native import SUFFIX, read_document, write_text

__all__ = ["SUFFIX", "Drawing", "read_document", "read_regular", "write_text"]
