"""Anakinema: build linkages, step them through their motion, and know whether they do their job."""

import os

__version__ = "0.1.0"

# Many small matrices: threads inside the linear algebra cost more than they gain.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
