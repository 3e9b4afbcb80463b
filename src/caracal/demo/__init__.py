"""Draws the demo film *Kiln Day at Marram Quay*, its sound, its sidecars and its ground truth.

Everything here is invented. ``python -m caracal.demo`` makes the shipped files again.
"""
