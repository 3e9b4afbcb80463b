"""Runs the command line on a virtual display, and leaves nothing behind.

    python -P -m caracal.cli.virtual demo

Starts Xvfb, lets it choose a free display, and ends it with the window: at its end, on Ctrl+C and
on SIGTERM.
"""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
from types import FrameType

from caracal.core.base.translation import tr
from caracal.core.processes.children import command, environment

SCREEN = "1280x800x24"
END_S = 10.0


def main() -> int:
    """Run the rest of the words there; returns the exit code."""
    if shutil.which("Xvfb") is None:
        sys.stderr.write(tr("There is no display, and no Xvfb to make one. Install the package "
                            "xvfb.\n"))
        return 2
    ours, theirs = os.pipe()
    screen = subprocess.Popen(
        ["Xvfb", "-displayfd", str(theirs), "-screen", "0", SCREEN, "-nolisten", "tcp"],
        pass_fds=[theirs], start_new_session=True, stdin=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL)
    os.close(theirs)
    window: subprocess.Popen[bytes] | None = None
    asked: list[int] = []

    def stop(number: int, _: FrameType | None) -> None:
        asked.append(number)
        if window is not None:
            window.send_signal(signal.SIGTERM)

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)
    try:
        with os.fdopen(ours) as told:
            display = told.readline().strip()
        if not display:
            sys.stderr.write(tr("Xvfb could not make a display. Check its package.\n"))
            return 2
        if not asked:
            window = subprocess.Popen(
                command("cli", *sys.argv[1:]), start_new_session=True,
                env={**environment(), "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb"})
            window.wait()
        return 130 if asked else window.returncode if window else 130
    finally:
        for process in (window, screen):
            if process is not None and process.poll() is None:
                process.terminate()
                try:
                    process.wait(END_S)
                except subprocess.TimeoutExpired:
                    process.kill()
                    process.wait()


if __name__ == "__main__":
    sys.exit(main())
