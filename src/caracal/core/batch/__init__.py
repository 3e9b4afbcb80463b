"""Making the files: versions rendered from one decode, each proved before it gets its name."""
