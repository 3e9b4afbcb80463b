"""Formats of other programs, read and written: cut lists and captions."""
