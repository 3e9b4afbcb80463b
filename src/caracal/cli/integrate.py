"""``caracal integrate``: the desktop knows Caracal: its entry, icon, project files, page of the
manual and completions, for this user; ``--remove`` undoes it.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

from caracal.core.errors import storage_error
from caracal.core.resources import shipped
from caracal.core.translation import tr

DESKTOP = "caracal.desktop"
PLACES = {  # what ships in data/desktop, and where below the user's data folder it goes
    DESKTOP: "applications", "caracal.xml": "mime/packages",
    "caracal.metainfo.xml": "metainfo", "caracal.svg": "icons/hicolor/scalable/apps",
    "application-x-caracal.svg": "icons/hicolor/scalable/mimetypes", "caracal.1": "man/man1",
    "caracal.bash": "bash-completion/completions",
}
NAMES = {"caracal.bash": "caracal"}  # what is called otherwise there
REFRESH = (("update-desktop-database", "applications"), ("update-mime-database", "mime"),
           ("gtk-update-icon-cache", "icons/hicolor"))
REFRESH_S = 20.0


def data_home() -> Path:
    """The user's data folder (XDG Base Directory Specification 0.8)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def integrate(asked: argparse.Namespace) -> int:
    """Lay everything out in the user's data folder, or take it away again."""
    home = (asked.into or data_home()).absolute()
    done = []
    for name, folder in PLACES.items():
        target = home / folder / NAMES.get(name, name)
        try:
            if asked.remove:
                target.unlink(missing_ok=True)
            else:
                target.parent.mkdir(parents=True, exist_ok=True)
                _write(target, shipped("desktop", name), own=asked.into is None)
        except OSError as problem:
            raise storage_error(target, problem) from problem
        done.append(target)
    if asked.into is None:
        _refresh(home)
    for target in done:
        print(f"{tr('removed') if asked.remove else tr('written')}  {target}")
    return 0


def _write(target: Path, source: Path, own: bool) -> None:
    """Put ``source`` at ``target``, whole; of one's ``own`` the entry names the program that runs
    now, a packager's the one on the path.
    """
    part = target.with_name(f"{target.name}.part")
    if source.name == DESKTOP:
        program = Path(sys.argv[0]).absolute()
        text = source.read_text(encoding="utf-8")
        if own and program.name == "caracal" and program.is_file():
            named = str(program).replace("%", "%%")  # Desktop Entry Specification 1.5, Exec key
            text = text.replace("Exec=caracal", f'Exec="{named}"')
        part.write_text(text, encoding="utf-8")
    else:
        shutil.copyfile(source, part)
    part.replace(target)


def _refresh(home: Path) -> None:
    """Let the desktop look again; where a program for that is missing it does so by itself."""
    for program, folder in REFRESH:
        if shutil.which(program) and (home / folder).is_dir():
            with suppress(OSError, subprocess.TimeoutExpired):
                subprocess.run([program, str(home / folder)], check=False, timeout=REFRESH_S,
                               capture_output=True)
