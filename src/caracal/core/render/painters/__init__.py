"""One file for each kind of thing that is painted on a canvas."""
