"""``PYTHONPATH=tools python -m demo [FOLDER]``: make the demo film and its sidecars, the moving
backdrops, the graphics, the templates and the sounds again, in FOLDER and beside it.
"""

import os
import sys
from pathlib import Path

from caracal.core.base.resources import shipped
from caracal.core.base.work import Progress
from demo.backdrops import make_backdrops
from demo.graphics import make_graphics
from demo.make import make_demo
from demo.sounds import make_sounds
from demo.templates import make_templates


def _tell(progress: Progress) -> None:
    if sys.stderr.isatty():
        sys.stderr.write(f"\r{progress.doing}: {progress.share:.0%}")


if __name__ == "__main__":
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else shipped("demo")
    make_backdrops(folder.parent / "backdrops")
    make_graphics(folder.parent / "graphics")
    make_templates(folder.parent / "templates")
    make_sounds(folder.parent / "effects", folder)
    sys.stderr.write(f"\n{make_demo(folder, _tell)}\n")
