"""``anakinema`` and ``python -m anakinema``."""

import sys

from anakinema.loading import loading

with loading():
    from anakinema.cli import main

if __name__ == "__main__":
    sys.exit(main())
