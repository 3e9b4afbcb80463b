"""The project: what a person decided about one film. Frozen; every edit makes a new one."""
