"""How much of a stranger's file is taken: sizes, depths, counts and times, each with its reason.

What is beyond a limit is refused with a sentence. All are common practice: far beyond what real
work needs, and small enough for the program to stay quick and within its memory.
"""

from __future__ import annotations

LEAST_SIDE = 16  # pixels of a picture: a macroblock; what is smaller shows nothing
MOST_SHAPE = 12.0  # a film's longer side to its shorter one: panoramas are 4 to 1
MOST_SIDE = 16384  # pixels of a picture across or down: H.264 level 6.2 ends there
MOST_PIXELS = 67_108_864  # of a picture: 8192x8192, twice an 8K film's
LEAST_RATE = 1.0  # pictures a second: what is slower is a slide show
LONGEST_STILL_S = 600.0  # between two pictures of a film: what is longer is a broken clock
MOST_FRAMES = 24 * 3600 * 120  # a day at 120 pictures a second
MOST_CHANNELS = 64  # of sound: more are no sound track
CLOCK_JUMP_S = 10.0  # in a transport stream a jump this long is a joint (FFmpeg's own threshold)

MOST_DRAWING_BYTES = 8 << 20  # of an SVG
MOST_ASSET_BYTES = 64 << 20  # of a picture in a layout
MOST_TEXT_BYTES = 8 << 20  # of a spec sheet or cut list
MOST_PROJECT_BYTES = 256 << 20  # of a project: an hour's drawn boxes are about 30 MB
MOST_NESTING = 100  # braces and brackets within each other
MOST_TOML_LINE = 10_000  # characters: dotted keys nest like braces
MOST_TOML_DOTS = 20  # in a key
MOST_PATTERN = 200  # characters of a pattern of names
MOST_SHOTS = 100_000  # of a cut list
