"""``caracal integrate``: the desktop knows Caracal: its entry, icon, project files, page of the
manual and completions, for this user; ``--remove`` undoes it.

What was written is recorded with a digest. A file that somebody changed since, or that is not ours,
is neither replaced nor removed, unless ``--force`` says so.
"""

from __future__ import annotations

import argparse
import hashlib
import os
import shutil
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

import msgspec

from caracal.core.base.atomic_write import read_own, write_bytes
from caracal.core.base.decoding import DecodeError, decode_json
from caracal.core.base.errors import InputError, on_one_line, storage_error
from caracal.core.base.folders import home_folder, state_root
from caracal.core.base.paths import text_of
from caracal.core.base.resources import shipped
from caracal.core.base.translation import tr

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
CACHES = ("applications/mimeinfo.cache", "icons/hicolor/icon-theme.cache")  # made by REFRESH
QUOTED = '"`$\\'  # characters that Exec takes only behind a backslash


class Written(msgspec.Struct):
    """What was written: digests by the path of the file, and the folders that were made for it."""

    files: dict[str, str] = {}
    folders: list[str] = []


def data_home() -> Path:
    """The user's data folder (XDG Base Directory Specification 0.8: relative paths are ignored)."""
    said = Path(os.environ.get("XDG_DATA_HOME", ""))
    return said if said.is_absolute() else home_folder() / ".local" / "share"


def integrate(asked: argparse.Namespace) -> int:
    """Lay everything out in the user's data folder, or take it away again."""
    home = (asked.into or data_home()).absolute()
    targets = {name: home / folder / NAMES.get(name, name) for name, folder in PLACES.items()}
    contents = {name: _content(name, own=asked.into is None) for name in PLACES}
    written = _record()
    changed = [] if asked.force else [
        target for name, target in targets.items() if _changed(target, contents[name], written)]
    if asked.remove:
        _remove([target for target in targets.values() if target not in changed], home, written)
        done = [target for target in targets.values() if target not in changed]
    else:
        if changed:
            raise InputError(
                tr("These files were changed, or are not Caracal's: {files}.",
                   files=", ".join(str(path) for path in changed)),
                remedy=tr("Give --force to replace them."))
        for name, target in targets.items():
            _write(target, contents[name], written)
        done = list(targets.values())
    if asked.into is None:
        before = _folders(home)
        _refresh(home)
        made = (text_of(folder) for folder in _folders(home) - before)
        written.folders += [folder for folder in made if folder not in written.folders]
    if asked.remove:
        _remove_folders(home, written)
    _keep(written)
    for target in done:
        print(f"{tr('removed') if asked.remove else tr('written')}  {target}")
    for target in changed:
        sys.stderr.write(on_one_line(tr("{file} was changed: it stays. Give --force to remove it.",
                                        file=target)) + "\n")
    return 0


def _content(name: str, own: bool) -> bytes:
    """What the file called ``name`` is to hold: of one's ``own`` the entry names the program that
    runs now, a packager's the one on the path.
    """
    data = shipped("desktop", name).read_bytes()
    program = Path(sys.argv[0]).absolute()
    if name != DESKTOP or not own or program.name != "caracal" or not program.is_file():
        return data
    if any(ord(letter) < 32 or ord(letter) == 127 for letter in str(program)):
        raise InputError(tr("No desktop entry can start this program: its path contains a line "
                            "break or another control character."), program,
                         tr("Move Caracal to another folder."))
    return data.replace(b"Exec=caracal", b"Exec=" + os.fsencode(exec_argument(str(program))))


def exec_argument(text: str) -> str:
    """``text`` as one argument of the key Exec (Desktop Entry Specification 1.5, The Exec key).

    The argument is quoted first, then escaped as every string of an entry is.
    """
    quoted = "".join(f"\\{letter}" if letter in QUOTED else letter
                     for letter in text.replace("%", "%%"))
    return '"' + quoted.replace("\\", "\\\\") + '"'


def _changed(target: Path, content: bytes, written: Written) -> bool:
    """Whether something else stands at ``target`` than what was written, or would be."""
    if not os.path.lexists(target):
        return False
    try:
        found = read_own(target) if not target.is_symlink() else b"a link"
    except OSError:
        return True
    return found != content and _digest(found) != written.files.get(text_of(target))


def _digest(data: bytes) -> str:
    return hashlib.blake2b(data, digest_size=16).hexdigest()


def _write(target: Path, content: bytes, written: Written) -> None:
    missing = [folder for folder in target.parents if not folder.exists()]
    write_bytes(target, content, make_folder=True)
    made = [text_of(folder) for folder in missing]
    written.folders += [folder for folder in made if folder not in written.folders]
    written.files[text_of(target)] = _digest(content)


def _remove(targets: list[Path], home: Path, written: Written) -> None:
    for target in targets:
        try:
            if home.exists() and not home.is_dir():
                raise NotADirectoryError(20, "", str(home))
            target.unlink(missing_ok=True)
        except OSError as problem:
            raise storage_error(target, problem) from problem
        written.files.pop(text_of(target), None)


def _remove_folders(home: Path, written: Written) -> None:
    """Remove the folders that were made for our files, as far as nothing else lies in them."""
    mime = home / "mime"
    if text_of(mime) in written.folders and not any((mime / "packages").glob("*")):
        shutil.rmtree(mime, ignore_errors=True)  # all else in it is made from the packages
    for cache in CACHES:
        folder = (home / cache).parent
        others = [path for path in folder.rglob("*") if path.is_file() and path != home / cache]
        if text_of(folder) in written.folders and not others:
            with suppress(OSError):
                (home / cache).unlink(missing_ok=True)
    for name in sorted(written.folders, key=len, reverse=True):  # the innermost first
        if Path(name).is_relative_to(home):
            with suppress(OSError):
                Path(name).rmdir()
    written.folders = [name for name in written.folders if Path(name).is_dir()]


def _record_file() -> Path:
    return state_root() / "integrated.json"


def _record() -> Written:
    """What was written before; nothing where the record is missing or damaged."""
    try:
        return decode_json(read_own(_record_file()), Written)
    except (OSError, DecodeError):
        return Written()


def _keep(written: Written) -> None:
    """Keep the record while there is something to record."""
    if written.files or written.folders:
        write_bytes(_record_file(), msgspec.json.encode(written), make_folder=True)
    else:
        with suppress(OSError):
            _record_file().unlink(missing_ok=True)


def _folders(home: Path) -> set[Path]:
    """All folders in which what the desktop made of our files may lie."""
    return {folder for _, name in REFRESH for folder in (home / name).rglob("*")
            if folder.is_dir()}


def _refresh(home: Path) -> None:
    """Let the desktop look again; where a program for that is missing it does so by itself."""
    for program, folder in REFRESH:
        if shutil.which(program) and (home / folder).is_dir():
            with suppress(OSError, subprocess.TimeoutExpired):
                subprocess.run([program, str(home / folder)], check=False, timeout=REFRESH_S,
                               capture_output=True)
