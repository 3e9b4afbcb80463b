"""The house itself: the picture of its rooms is current, and no file or function is too long."""

import ast
import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent
FILES = sorted(path for folder in ("src", "tests", "benchmarks", "scripts")
               for path in (ROOT / folder).rglob("*.py"))
MOST_LINES, MOST_OF_A_FUNCTION = 400, 60  # beyond, there are probably two ideas


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


def test_files_and_functions_are_short():
    long = []
    for file in FILES:
        text = file.read_text()
        if len(text.splitlines()) > MOST_LINES:
            long.append(str(file.relative_to(ROOT)))
        long += [f"{file.relative_to(ROOT)}: {node.name}" for node in ast.walk(ast.parse(text))
                 if isinstance(node, ast.FunctionDef)
                 and node.end_lineno - node.lineno >= MOST_OF_A_FUNCTION]
    assert long == []
