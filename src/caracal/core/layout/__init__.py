"""How a version's canvas is laid out: panes of picture and backdrops, as data."""
