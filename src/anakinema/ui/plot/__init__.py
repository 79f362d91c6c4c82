"""The strip pulled up: its curves against one another, with two cursors and their difference."""
