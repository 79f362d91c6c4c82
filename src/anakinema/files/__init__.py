"""The document's own files: read within bounds, written so that none is ever half there."""

from anakinema.bounded import read_regular
from anakinema.files.native import SUFFIX, read_document, write_bytes, write_text

__all__ = ["SUFFIX", "read_document", "read_regular", "write_bytes", "write_text"]
