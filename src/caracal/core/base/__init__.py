"""What all rooms of the core stand on: errors, time, geometry, files of ours, sentences."""
