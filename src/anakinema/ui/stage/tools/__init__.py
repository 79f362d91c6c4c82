"""What the mouse does on the stage: one tool in hand at a time."""
