"""Where the window goes: what must be seen, the calmest path that keeps it, flags."""
