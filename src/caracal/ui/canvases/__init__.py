"""The version canvases, and what can be taken hold of on them."""
