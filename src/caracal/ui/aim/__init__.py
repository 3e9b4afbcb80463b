"""Aim: the master's picture with the windows in it, the canvases beside, the path below."""
