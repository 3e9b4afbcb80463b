"""Sound as a file has it: measured, brought to its loudness, limited."""
