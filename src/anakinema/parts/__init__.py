"""Ready-made definitions, each shaped by a few driving dimensions."""
