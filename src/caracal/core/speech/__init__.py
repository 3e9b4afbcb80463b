"""What is said in a film: recognised, and laid out as captions."""
