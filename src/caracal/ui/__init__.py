"""The window: PySide6 widgets that read the project, send edits, and compute nothing."""
