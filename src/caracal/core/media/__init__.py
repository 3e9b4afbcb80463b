"""Movie files in and out: the only package that imports ``av``."""
