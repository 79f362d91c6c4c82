"""Speed, as ratios to a peer measured in the same run: ``make bench``."""
