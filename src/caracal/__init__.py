"""Caracal: one finished widescreen film in, every other shape out, framed, checked and encoded."""

__version__ = "0.1.0"
