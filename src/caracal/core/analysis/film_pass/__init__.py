"""One decode of the film, and all that is taken from it on the way."""
