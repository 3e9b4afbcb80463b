"""Where captions and titles stand, and how well they can be read."""
