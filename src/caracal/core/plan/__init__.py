"""Everything about one file to make, as data that a process or another machine works from."""
