"""The house itself: its picture is current, nothing lies loose, no file is too long."""

import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent
FILES = sorted(path for folder in ("src", "tests", "benchmarks", "scripts")
               for path in (ROOT / folder).rglob("*.py"))
MOST_LINES = 400  # beyond, there are probably two ideas; how complex a function is, ruff checks
DOORS = {"core": {"convert"}, "ui": set()}


def test_the_picture_of_the_rooms_is_made_from_the_imports():
    sys.path.insert(0, str(ROOT / "scripts"))
    import rooms

    assert rooms.drawn(rooms.imports()) == (ROOT / "docs" / "rooms.svg").read_text()


def test_an_arrow_goes_down_and_is_drawn_once():
    sys.path.insert(0, str(ROOT / "scripts"))
    import rooms

    house = {"roof": {"walls", "ground"}, "walls": {"ground"}, "ground": set()}
    assert rooms.ranks(house) == {"ground": 0, "walls": 1, "roof": 2}
    assert rooms.needed(house) == {"roof": {"walls"}, "walls": {"ground"}, "ground": set()}


def test_files_are_short():
    assert [str(file.relative_to(ROOT)) for file in FILES
            if len(file.read_text().splitlines()) > MOST_LINES] == []


def test_no_file_lies_loose_but_the_doors():
    for room, doors in DOORS.items():
        loose = {file.stem for file in (ROOT / "src" / "caracal" / room).glob("*.py")}
        assert loose == {"__init__", *doors}


def test_every_view_and_every_command_is_registered():
    from caracal.cli.commands import ALL
    from caracal.ui.shell.views import VIEWS

    views = {file.parent.name for file in (ROOT / "src/caracal/ui").glob("*/registration.py")}
    assert {view.name.lower() for view in VIEWS} == views
    assert len({view.key for view in VIEWS}) == len(VIEWS)
    commands = {file.stem for file in (ROOT / "src/caracal/cli/commands").glob("*.py")}
    assert {command.name for command in ALL} == commands - {"__init__", "command"} | {"demo"}
