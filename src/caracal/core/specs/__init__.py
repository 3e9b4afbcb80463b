"""Spec sheets: what a destination takes, the checks against it, and what an encoder is told."""
