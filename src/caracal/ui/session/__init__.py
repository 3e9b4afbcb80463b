"""An open film: its project, where we are, and what was solved of it."""
