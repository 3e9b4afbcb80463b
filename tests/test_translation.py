"""Every sentence can be translated: through the catalogue, a made-up language, and the code."""

import ast
import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest
from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po

from caracal.core.base import translation
from caracal.core.base.translation import counted, languages, mark, tr
from caracal.core.specs.checks import MUXERS
from caracal.core.specs.codecs import SOUND, VIDEO
from caracal.core.specs.sheet_store import find_sheet, shipped_sheets, write_sheet
from caracal.core.text.fonts import SHIPPED as FONTS
from conftest import DEMO, smaller, write_film
from pseudo_language import LANGUAGE, outside, pseudo, write_catalogue

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "caracal"
UNITS = "GOP Hz kb kb/s LUFS MB GB dBTP fps px"
OF_PEOPLE = {"InputError", "CaracalError", "StorageError", "InstallError", "NoPathError", "QLabel",
             "QPushButton", "QCheckBox", "QMessageBox", "setText", "setToolTip", "setWindowTitle",
             "setPlaceholderText", "setAccessibleName", "setInformativeText", "addAction", "Entry",
             "addButton", "small_button", "choice_box", "number_box", "headed_row", "showMessage",
             "Concern", "Setting", "ArgumentTypeError"}


@pytest.fixture
def spoken(tmp_path, monkeypatch):
    """Makes catalogues of the user's own; the language is read anew."""
    def speak(pairs):
        made = Catalog(locale="de")
        for text, found in pairs.items():
            made.add(text, found)
        target = tmp_path / "locale" / "de" / "LC_MESSAGES"
        target.mkdir(parents=True, exist_ok=True)
        with (target / "caracal.mo").open("wb") as out:
            write_mo(out, made)
        monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path))
        monkeypatch.setenv("LANGUAGE", "de_AT:fr")
        translation._catalogue.cache_clear()
        return target / "caracal.mo"

    yield speak
    translation._catalogue.cache_clear()


def test_without_a_catalogue_there_is_english(monkeypatch):
    monkeypatch.setenv("LANGUAGE", "de")
    translation._catalogue.cache_clear()
    assert tr("{count} of {all}", count=1, all=3) == "1 of 3" and languages() == ()
    assert tr("{film} {sheet}") == "{film} {sheet}"  # no values: nothing is filled in
    assert [counted(n, "{count} shot", "{count} shots") for n in (0, 1, 2)] == [
        "0 shots", "1 shot", "2 shots"]
    assert mark("locked") == "locked"


def test_a_translation_has_its_own_order_and_plurals(spoken):
    """Plural forms of German: singular for 1 (Unicode CLDR)."""
    spoken({"{name} of {letter} changed.": "In {letter} ist {name} anders.",
            ("{count} shot", "{count} shots"): ("{count} Einstellung", "{count} Einstellungen")})
    assert tr("{name} of {letter} changed.", name="Pfeil", letter="B") == "In B ist Pfeil anders."
    assert [counted(n, "{count} shot", "{count} shots") for n in (0, 1, 2)] == [
        "0 Einstellungen", "1 Einstellung", "2 Einstellungen"]
    assert languages() == ("de",) and tr("Not in it.") == "Not in it." and tr("") == ""


@pytest.mark.parametrize("slip", [
    "{who} ist anders.", "{name.x!z} ist", "{name", "{0}", "{name:>2000000000}", "{name!r:>99}",
    "{name.__class__}", "\x1b[2J{name} ist anders.", "{name}\r ist anders.", "{name}\x9b2J"])
def test_a_translator_s_slip_leaves_english(spoken, slip):
    spoken({"{name} changed.": slip})
    assert tr("{name} changed.", name="B") == "B changed."


@pytest.mark.parametrize("plural", [b"n/0", b"n%0", b"99", b"-n"])
def test_a_sum_for_plurals_that_fails_leaves_english_or_a_form(spoken, plural):
    file = spoken({("{count} shot", "{count} shots"): ("{count} Bild", "{count} Bilder")})
    data = file.read_bytes()
    asked = b"plural=(n != 1)"
    assert asked in data
    file.write_bytes(data.replace(asked, (b"plural=" + plural).ljust(len(asked))))
    translation._catalogue.cache_clear()
    told = [counted(n, "{count} shot", "{count} shots") for n in (0, 1, 2)]
    assert all(said.startswith(f"{n} ") for n, said in enumerate(told))
    assert tr("Not in it.") == "Not in it."  # gettext works the sum out for single words, too


@pytest.mark.parametrize("damage", [b"", b"no catalogue", b"\xde\x12\x04\x95" + b"\xff" * 40])
def test_a_damaged_catalogue_has_no_say(spoken, damage):
    spoken({"Undo": "Zurück"}).write_bytes(damage)
    translation._catalogue.cache_clear()
    assert tr("Undo") == "Undo"


def test_the_template_lists_every_sentence_of_the_code():
    sys.path.insert(0, str(ROOT / "scripts"))
    import catalogue

    with catalogue.TEMPLATE.open("rb") as file:
        listed = {message.id for message in read_po(file)}
    assert {message.id for message in catalogue.source_catalogue()} == listed, (
        "run scripts/catalogue.py")
    assert len(listed) > 1800


def test_what_people_read_goes_through_the_catalogue():
    """No call that shows words is given any that are written into it."""
    found = []
    for file in SOURCE.rglob("*.py"):
        if "demo" in file.parts:
            continue
        for node in ast.walk(ast.parse(file.read_text())):
            if not isinstance(node, ast.Call):
                continue
            name = getattr(node.func, "attr", getattr(node.func, "id", ""))
            if name in OF_PEOPLE:
                given = [*node.args, *(word.value for word in node.keywords)]
                found += [f"{file.name}:{node.lineno} {words!r}" for each in given
                          if (words := _sentence(each))]
    assert found == []


def _sentence(node):
    """The words of a literal that has a word in small letters after a blank or at its beginning."""
    if isinstance(node, ast.IfExp):
        return _sentence(node.body) or _sentence(node.orelse)
    parts = node.values if isinstance(node, ast.JoinedStr) else [node]
    text = "".join(part.value for part in parts
                   if isinstance(part, ast.Constant) and isinstance(part.value, str))
    return text if re.search(r"\w+ [a-z]{2,}", text) else ""


def test_nothing_in_the_window_is_left_in_english(cache, tmp_path):
    """Every view, panel and menu in a made-up language: what stands outside of its brackets is
    data (names of files, sheets and fonts, what captions say) or a unit."""
    write_catalogue(tmp_path)
    done = subprocess.run(
        [sys.executable, str(Path(__file__).with_name("seen_in_pseudo_language.py")),
         str(tmp_path)], env={**os.environ, "LANGUAGE": LANGUAGE, "CARACAL_CONFIG": str(tmp_path),
                              "CARACAL_STATE": str(tmp_path / "state")},
        capture_output=True, text=True, check=False, timeout=200)
    assert done.returncode == 0, done.stderr
    said = json.loads(done.stdout.splitlines()[-1])
    data = _data(tmp_path)
    english = {}
    for text, where in said.items():
        rest = outside(text)
        for word in sorted(data, key=len, reverse=True):
            rest = rest.replace(word, " ")
        if re.search(r"[A-Za-z]{2,}", rest):
            english[rest.strip()] = (where, text)
    assert english == {}
    assert sum("⟦" in text for text in said) > 700


def _data(folder):
    """What may be seen untranslated."""
    sheets = shipped_sheets().values()
    zones = [zone.what for sheet in sheets for zone in (
        *sheet.covers, sheet.clear, sheet.thumbnail_cut, sheet.edge_trim) if zone is not None]
    captions = [line for line in DEMO.with_suffix(".srt").read_text().splitlines() if line]
    profiles = [profile for codec in VIDEO.values() for profile in codec.profiles]
    pixels = [name for codec in VIDEO.values() for name in codec.pixel_formats]
    titles = [codec.title for codec in (*VIDEO.values(), *SOUND.values())]
    return {*UNITS.split(), *(sheet.title for sheet in sheets), *zones,
            *(zone.capitalize() for zone in zones), *captions, *profiles, *pixels, *titles,
            *VIDEO, *SOUND, *MUXERS, *FONTS, "srt", "vtt", "ass", DEMO.name, str(DEMO.parent),
            DEMO.with_suffix(".srt").name, str(folder), str(Path.home() / "Caracal"),
            *(word for word in ("film", "version", "shape", "sheet", "part", "date", "time",
                                "resolution"))}


@pytest.mark.parametrize("words", [
    ["--help"], ["convert", "--help"], ["look", "gone.mp4"], ["specs", "show", "none"],
    ["path", str(DEMO), "--shape", "9"], ["batch", "--out", "x"]])
def test_the_command_line_speaks_it_too(words, tmp_path):
    write_catalogue(tmp_path)
    done = subprocess.run(
        [sys.executable, "-m", "caracal", *words], capture_output=True, text=True, check=False,
        env={**os.environ, "LANGUAGE": LANGUAGE, "CARACAL_CONFIG": str(tmp_path)})
    assert "⟦" in done.stdout + done.stderr


def test_a_file_is_made_and_proved_in_another_language(tmp_path):
    """Nothing that is compared, stored or asked of a library was translated on the way."""
    write_catalogue(tmp_path)
    film, sheet = write_film(tmp_path / "film.mp4", frames=75), tmp_path / "small.toml"
    write_sheet(smaller(find_sheet("square-feed")), sheet)
    done = subprocess.run(
        [sys.executable, "-m", "caracal", "batch", str(film), "--spec", str(sheet), "--out",
         str(tmp_path / "out"), "--json"], capture_output=True, text=True, check=False,
        env={**os.environ, "LANGUAGE": LANGUAGE, "CARACAL_CONFIG": str(tmp_path),
             "CARACAL_STATE": str(tmp_path / "state")})
    assert done.returncode == 0, done.stdout + done.stderr
    (made,) = json.loads(done.stdout)["files"]
    lines = {line["what"]: line for line in made["lines"]}
    assert made["right"] and {"colour tags", "frame rate", "pictures"} <= set(lines)
    assert lines["pictures"]["asked"] == pseudo("as composed")


def test_the_made_up_language_keeps_values_outside():
    assert pseudo("{count} of {all:.1f} done") == "{count}⟦ of ⟧{all:.1f}⟦ done⟧"
    assert outside("⟦Shot ⟧3⟦ is ⟧locked⟦.⟧") == "3locked"
