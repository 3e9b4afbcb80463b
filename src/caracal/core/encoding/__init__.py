"""Encoding: frames from one decode to an encoder's process for each file, and the proof of each."""
