"""The document's own files: read within bounds, written so that none is ever half there."""

from anakinema.files.native import SUFFIX, read_document

__all__ = ["SUFFIX", "read_document"]
