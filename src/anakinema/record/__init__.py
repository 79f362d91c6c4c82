"""What leaves the program as files in open formats: one list, `EXPORTS`."""

from anakinema.record.exports import EXPORTS, Export

__all__ = ["EXPORTS", "Export"]
