"""The documents: what is written by a script is as it writes it, links lead somewhere, keys and
commands are real."""

import importlib.util
import re
import shlex
from pathlib import Path

import pytest

from caracal.cli.main import main
from caracal.core.base.resources import shipped
from caracal.ui.shell.film_menu import film_menu
from caracal.ui.shell.help_menu import guide_page, with_help
from caracal.ui.shell.keys import film_menus
from caracal.ui.shell.menus import keys_of
from conftest import write_film

ROOT = Path(__file__).parent.parent
DOCS = (*sorted((ROOT / "docs").glob("*.md")), ROOT / "README.md", ROOT / "CONTRIBUTING.md",
        ROOT / "SECURITY.md", ROOT / "CHANGELOG.md")
POINTED = {"Ctrl+Shift+C and V", "Ctrl+arrows", "Alt+Up and Down"}  # several keys in one word


@pytest.fixture
def script():
    spec = importlib.util.spec_from_file_location("guides", ROOT / "scripts/guides.py")
    made = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(made)
    return made


def test_the_page_of_sheets_is_what_its_script_writes(script):
    assert (ROOT / "docs/sheets.md").read_text() == script.sheets_page()
    assert shipped("guide.md").read_bytes() == (ROOT / "docs/guide.md").read_bytes()


@pytest.mark.parametrize("page", DOCS, ids=lambda page: page.name)
def test_links_lead_somewhere(page):
    text = page.read_text()
    for target in re.findall(r"\]\(([^)]+)\)", text):
        if target.startswith("#"):
            assert target[1:] in [re.sub(r"[^\w -]", "", head).strip().lower().replace(" ", "-")
                                  for head in re.findall(r"^#+ (.*)$", text, re.MULTILINE)], target
        elif "://" not in target:
            assert (page.parent / target).exists(), target


@pytest.mark.parametrize("page", [page for page in DOCS if page.name != "scripting.md"],
                         ids=lambda page: page.name)
def test_every_command_in_it_works(page, tmp_path, monkeypatch, capsys):
    """Those of scripting.md are run in test_scripting, with a project."""
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path / "config"))
    write_film(tmp_path / "film.mp4", frames=90)
    for line in re.findall(r"^\$ caracal (.*)$", page.read_text(), re.MULTILINE):
        assert main(shlex.split(line)) == 0, (line, capsys.readouterr().err)


def test_keys_that_the_guide_names_are_those_of_the_menus(window):
    menus = with_help(window, {"&Film": film_menu(window),
                               **film_menus(window.opened, window.settings)},
                     window.tour.start)
    known = {key.toString() for entries in menus.values() for entry in entries
             if entry is not None for key in keys_of(entry)}
    text = (ROOT / "docs/guide.md").read_text()
    for several in POINTED:
        assert several in text
        text = text.replace(several, "")
    named = set(re.findall(r"\b(?:(?:Ctrl|Shift|Alt)\+)+(?:\w+|[+-])|\bF1\b", text))
    assert len(named) >= 12
    assert named - known == set()
    assert {"Ctrl+Shift+C", "Ctrl+Shift+V", "Ctrl+Left", "Alt+Up", "Alt+Down"} <= known


def test_the_window_shows_the_guide(window, qtbot):
    assert "](" not in guide_page()
    window.actions_by_name["Guide…"].trigger()
    from PySide6.QtWidgets import QDialog, QTextBrowser

    (dialog,) = (each for each in window.findChildren(QDialog) if each.windowTitle() == "Guide")
    words = dialog.findChild(QTextBrowser).toPlainText()
    assert "Board (1): see all of it" in words and "**" not in words
    dialog.close()
