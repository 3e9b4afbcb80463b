"""Where shots begin."""
