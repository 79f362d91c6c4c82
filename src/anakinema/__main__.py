"""``python -m anakinema``."""

import sys

from anakinema.cli import main

sys.exit(main())
