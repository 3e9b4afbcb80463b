"""Widgets and painting that views share."""
