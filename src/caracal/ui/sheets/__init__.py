"""The spec sheet window: a form beside a live drawing of the canvas."""
