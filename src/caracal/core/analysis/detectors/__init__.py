"""What is in one picture or one stretch of sound."""
