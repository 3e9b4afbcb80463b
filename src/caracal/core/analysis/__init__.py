"""What a film contains: cuts, people and things, the active picture, sound. One frozen result."""
