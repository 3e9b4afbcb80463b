"""A stand-in for a destination: it receives a bundle, applies its own sheet, keeps a schedule."""
