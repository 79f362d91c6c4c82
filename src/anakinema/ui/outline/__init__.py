"""The outline editor: a part alone, everything to drag, to type and to relate."""
