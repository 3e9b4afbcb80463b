"""Draws one SVG in a process of its own: ``python -P -m caracal.core.render.assets.draw_svg SIDE``.

The drawing comes on standard input, its picture goes to standard output as PNG. What a drawing asks
for (a canvas of a terabyte, parts that multiply) ends this process, which has little memory and
time, and no other. It imports next to nothing, so it starts in a few hundredths of a second.
"""

from __future__ import annotations

import resource
import sys

MOST_BYTES = 1 << 30  # of memory beyond what is mapped when it begins
MOST_S = 20  # of the processor
DPI = 96.0  # of an inch, a centimetre and a point in a drawing (CSS Values and Units 3, 6.2)
REFUSED = 3  # the exit code for what resvg says is no drawing


def main() -> int:
    """Draw what comes on standard input; returns the exit code."""
    import resvg_py  # noqa: PLC0415 - the limits are counted from here on

    mapped = int(_first_of("/proc/self/statm")) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (mapped + MOST_BYTES, mapped + MOST_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_S, MOST_S))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    side = int(sys.argv[1])
    text = sys.stdin.buffer.read().decode("utf-8")
    try:
        made = resvg_py.svg_to_bytes(
            svg_string=text, skip_system_fonts=True, width=side, height=side, dpi=DPI)
    except (ValueError, MemoryError):
        return REFUSED
    sys.stdout.buffer.write(bytes(made))
    sys.stdout.buffer.flush()
    return 0


def _first_of(path: str) -> str:
    with open(path) as file:  # noqa: PTH123 - pathlib would be one more import
        return file.read().split()[0]


if __name__ == "__main__":
    sys.exit(main())
