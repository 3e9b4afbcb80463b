"""The Sound view: what is heard in a version, and where."""
