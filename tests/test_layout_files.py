"""Layouts as files: kept, read by another TOML reader, taken again; and what is none told."""

import tomllib

import msgspec
import pytest

from caracal.cli.main import main
from caracal.core.base.errors import InputError, StorageError
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.base.resources import DEMO_FILM
from caracal.core.layout.files import layout_asked, read_layout, write_layout
from caracal.core.layout.kinds import KINDS, inset

FRAME = FramingSpec(Shape(9, 16), None, (1080, 1920))


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_every_layout_is_the_same_after_a_file(tmp_path, kind):
    path, layout = tmp_path / "mine.toml", kind.make(FRAME)
    write_layout(path, layout)
    assert read_layout(path) == layout == layout_asked(str(path), FRAME)
    assert tomllib.loads(path.read_text())["kind"] == kind.name  # Python's own reader
    assert [each.name for each in tmp_path.iterdir()] == ["mine.toml"]


@pytest.mark.parametrize(("text", "words"), [
    ("kind = ", "not a layout"), ("kind = 'x'\npanes = []", "1 to 12 panes"),
    ("kind = 'x'\n[[panes]]\ncontent = {type = 'crowd'}", "not a layout"),
    ("kind = 'x'\n[[panes]]\nradius = 3.0\ncontent = {type = 'crop'}", "corners"),
    ("a" + ".a" * 100_000 + " = 1", "too long or nests"), ("x = " + "[" * 50_000, "levels deep"),
    ("kind = 'x'\n[[panes]]\ncontent = {type = 'plain', colour = '/etc/passwd'}", "not a colour"),
])
def test_what_is_no_layout_is_told_in_a_sentence(tmp_path, text, words):
    path = tmp_path / "odd.toml"
    path.write_text(text)
    with pytest.raises(InputError, match=words) as told:
        read_layout(path)
    assert told.value.file == path and told.value.remedy


def test_bytes_a_folder_and_nothing_are_told(tmp_path):
    (tmp_path / "binary.toml").write_bytes(bytes(range(256)))
    for name in ("binary.toml", "none.toml", "."):
        with pytest.raises(InputError):
            read_layout(tmp_path / name)
    with pytest.raises(StorageError):
        write_layout(tmp_path / "none" / "mine.toml", inset(FRAME))


def test_the_command_line_takes_a_file(tmp_path, capsys):
    layout = inset(FRAME)
    wide = msgspec.structs.replace(layout.panes[1], region=((0.5, 1.5), (0.0, 0.2)))
    write_layout(tmp_path / "beyond.toml", msgspec.structs.replace(
        layout, panes=(layout.panes[0], wide)))
    assert main(["convert", str(DEMO_FILM), "--spec", "vertical-short", "--out", str(tmp_path),
                 "--layout", str(tmp_path / "beyond.toml")]) == 2
    assert "outside the canvas" in capsys.readouterr().err
