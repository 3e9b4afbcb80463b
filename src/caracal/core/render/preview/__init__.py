"""Pictures for the screen."""
