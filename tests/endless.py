"""Stands in for a reader that never comes back: run apart by the tests of that."""

if __name__ == "__main__":
    while True:
        pass
