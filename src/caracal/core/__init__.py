"""The heart of Caracal. Nothing below this package imports Qt."""
