"""Draws the demo film *Kiln Day at Marram Quay*, its sound, its sidecars and its ground truth.

Everything here is invented. ``PYTHONPATH=tools python -m demo`` makes the shipped files again.
"""
