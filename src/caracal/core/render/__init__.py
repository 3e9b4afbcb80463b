"""From the master's planes to a version's planes."""
