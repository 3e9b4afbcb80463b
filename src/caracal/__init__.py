"""Caracal: one finished widescreen film in, every other shape out, framed, checked and encoded."""

import os

# Before any library is loaded: the one that runs the detectors reports to its vendor otherwise.
os.environ["ORT_DISABLE_TELEMETRY"] = "1"

__version__ = "0.1.0"
