"""Draws and writes what a desktop needs to know Caracal, into src/caracal/data/desktop.

    .venv/bin/python scripts/desktop_files.py

The page of the manual and the completions are made from the command line's own options.
"""

import argparse
from pathlib import Path
from textwrap import dedent

from caracal import __version__
from caracal.cli.main import parser

FOLDER = Path(__file__).parent.parent / "src" / "caracal" / "data" / "desktop"
NAME = "Caracal"
SUMMARY = "Make vertical, square and 4:5 versions of a widescreen film"
GROUND, SAND, TAWNY, SEA = "#1c1a18", "#f2ede4", "#d08a3c", "#3f7f83"


def icon(file: bool) -> str:
    """A wide picture of a sea at dusk and a lit tall window in it; a file has it on a sheet."""
    back = (f'<path d="M28 8h56l24 24v80a8 8 0 0 1-8 8H28a8 8 0 0 1-8-8V16a8 8 0 0 1 8-8z" '
            f'fill="{SAND}"/><path d="M84 8l24 24H84z" fill="#c9b79c"/>' if file else
            f'<rect x="4" y="4" width="120" height="120" rx="26" fill="{GROUND}"/>')
    x, y, wide, high = (30, 50, 68, 38) if file else (16, 38, 96, 54)
    left, tall = x + wide * 0.56, high + 16
    narrow, horizon = tall * 9 / 16, y + high * 0.6

    def rect(at: tuple[float, float, float, float], colour: str, round_by: int = 0) -> str:
        return ('<rect x="{:g}" y="{:g}" width="{:g}" height="{:g}"'.format(*at)
                + f' rx="{round_by}" fill="{colour}"/>')

    parts = [
        back, rect((x, y, wide, high), "#6d5a48", 4),
        rect((x, horizon, wide, y + high - horizon), "#2c4a4c"),
        rect((left, y - 8, narrow, tall), TAWNY, 3),
        rect((left, horizon, narrow, y + high + 8 - horizon), SEA, 3),
        f'<circle cx="{left + narrow / 2:g}" cy="{y + high * 0.42:g}" r="{high * 0.14:g}" '
        f'fill="{SAND}"/>']
    return ('<svg xmlns="http://www.w3.org/2000/svg" width="128" height="128" '
            'viewBox="0 0 128 128">\n' + "\n".join(parts) + "\n</svg>\n")


DESKTOP = f"""\
[Desktop Entry]
Type=Application
Name={NAME}
GenericName=Film reframing
Comment={SUMMARY}
Exec=caracal open %f
Icon=caracal
Terminal=false
Categories=AudioVideo;Video;AudioVideoEditing;
MimeType=application/x-caracal;video/mp4;video/quicktime;video/x-matroska;application/mxf;
Keywords=film;vertical;square;captions;
StartupNotify=true
"""

MIME = """\
<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="application/x-caracal">
    <comment>Caracal project</comment>
    <sub-class-of type="application/json"/>
    <glob pattern="*.caracal"/>
  </mime-type>
</mime-info>
"""

METAINFO = f"""\
<?xml version="1.0" encoding="UTF-8"?>
<component type="desktop-application">
  <id>org.caracal.Caracal</id>
  <name>{NAME}</name>
  <summary>{SUMMARY}</summary>
  <metadata_license>CC0-1.0</metadata_license>
  <project_license>Apache-2.0</project_license>
  <developer id="caracal"><name>The Caracal authors</name></developer>
  <description>
    <p>One finished widescreen film goes in; vertical, square and 4:5 versions come out: framed by
    subject tracking inside safe zones, checked, watched, and encoded to the resolution, bitrate and
    length of each destination.</p>
    <p>Every file is proved, line by line, before it is called finished. Nothing leaves your
    machine.</p>
  </description>
  <launchable type="desktop-id">caracal.desktop</launchable>
  <provides><binary>caracal</binary></provides>
  <content_rating type="oars-1.1"/>
  <releases><release version="{__version__}" date="2026-11-27"/></releases>
</component>
"""


def commands() -> dict[str, argparse.ArgumentParser]:
    """The commands by name."""
    return next(action for action in parser()._actions
                if isinstance(action, argparse._SubParsersAction)).choices


def helps() -> dict[str, str]:
    """What each command does, in a line."""
    action = next(action for action in parser()._actions
                  if isinstance(action, argparse._SubParsersAction))
    return {choice.dest: choice.help or "" for choice in action._choices_actions}


def options(command: argparse.ArgumentParser) -> list[argparse.Action]:
    """The options of a command, without help."""
    return [action for action in command._actions
            if action.option_strings and "--help" not in action.option_strings]


def manual() -> str:
    """The page of the manual."""
    told = helps()
    rows = [f'.TH CARACAL 1 "2026-11-27" "Caracal {__version__}" "User Commands"', ".SH NAME",
            f"caracal \\- {SUMMARY[:1].lower()}{SUMMARY[1:]}", ".SH SYNOPSIS",
            ".B caracal", "[\\fIoptions\\fR] [\\fIcommand\\fR ...]", ".SH COMMANDS",
            "Without a command the window opens."]
    for name, command in commands().items():
        rows += [".TP", f".B {name}", f"{told.get(name, '')}."]
        for option in options(command):
            value = f" {option.metavar}" if option.metavar else ""
            words = ((option.help or "") % vars(option)).replace("-", "\\-")
            name_of = ", ".join(option.option_strings) + value
            rows += [".RS", ".TP", f".B {name_of}".replace("-", "\\-"), words or "see above.",
                     ".RE"]
    rows += [".SH EXIT STATUS", "0 done; 1 a proof line, a line of a batch or a delivery failed, "
             "or something nobody foresaw; 2 bad input, told in one sentence; 130 stopped.",
             ".SH FILES", "Sheets lie in the configuration folder (CARACAL_CONFIG), analyses in "
             "the cache folder (CARACAL_CACHE), unsaved work and the log in the state folder "
             "(CARACAL_STATE)."]
    return "\n".join(rows) + "\n"


def completion() -> str:
    """Completion for bash: commands, their options, then files."""
    words = {name: " ".join(word for option in options(command) for word in option.option_strings)
             for name, command in commands().items()}
    cases = "\n".join(f"    {name}) words='{known}' ;;" for name, known in words.items())
    return dedent("""\
        # Completion of caracal for bash. Made by scripts/desktop_files.py.
        _caracal() {
          local here=${COMP_WORDS[COMP_CWORD]} words=''
          if [ "$COMP_CWORD" -eq 1 ]; then
            COMPREPLY=($(compgen -W '%s' -- "$here"))
            return
          fi
          case ${COMP_WORDS[1]} in
        %s
          esac
          case $here in
            -*) COMPREPLY=($(compgen -W "$words" -- "$here")) ;;
            *) COMPREPLY=($(compgen -f -- "$here")) ;;
          esac
        }
        complete -o filenames -F _caracal caracal
        """) % (" ".join(commands()), cases)


def files() -> dict[str, str]:
    """Every file, by its name."""
    return {"caracal.desktop": DESKTOP, "caracal.xml": MIME, "caracal.metainfo.xml": METAINFO,
            "caracal.svg": icon(file=False), "application-x-caracal.svg": icon(file=True),
            "caracal.1": manual(), "caracal.bash": completion()}


def main() -> None:
    """Write them."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, text in files().items():
        (FOLDER / name).write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
