"""``python -m caracal.demo [FOLDER]``: make the demo film and its sidecars, the moving
backdrops, the graphics and the templates again, in FOLDER and beside it.
"""

import os
import sys
from pathlib import Path

from caracal.core.resources import shipped
from caracal.core.work import Progress
from caracal.demo.backdrops import make_backdrops
from caracal.demo.graphics import make_graphics
from caracal.demo.make import make_demo
from caracal.demo.templates import make_templates


def _tell(progress: Progress) -> None:
    if sys.stderr.isatty():
        sys.stderr.write(f"\r{progress.doing}: {progress.share:.0%}")


if __name__ == "__main__":
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else shipped("demo")
    make_backdrops(folder.parent / "backdrops")
    make_graphics(folder.parent / "graphics")
    make_templates(folder.parent / "templates")
    sys.stderr.write(f"\n{make_demo(folder, _tell)}\n")
