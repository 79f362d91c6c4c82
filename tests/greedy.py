"""Stands in for a reader that takes all memory: run apart by the tests of that."""

from anakinema.drawings.apart import hold_to_limits

if __name__ == "__main__":
    hold_to_limits()
    kept = []
    while True:
        kept.append(bytearray(50_000_000))
