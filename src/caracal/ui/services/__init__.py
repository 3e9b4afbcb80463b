"""Work off the interface's thread, and settings."""
