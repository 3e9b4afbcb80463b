"""Words on a canvas: how they look, where their lines break, and their picture."""
