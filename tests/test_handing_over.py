"""Report, bundle and desk: what is handed over, and a rehearsal of handing it over."""

import json
import subprocess
from datetime import datetime, timedelta
from html.parser import HTMLParser
from pathlib import Path
from urllib.parse import unquote

import bagit
import msgspec
import pytest
from PIL import Image

from caracal.cli.main import main
from caracal.core.base.errors import InputError
from caracal.core.base.work import Control
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.bundle import make_bundle, opened_bundle
from caracal.core.batch.job import EncodeJob
from caracal.core.batch.report import write_report
from caracal.core.batch.runner import run_list
from caracal.core.convert import Recipe
from caracal.core.desk.desk import TITLE_MOST, Desk, Post
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from conftest import write_film

SHEET = msgspec.structs.replace(with_value(find_sheet("square-feed"), "canvas", (180, 180)),
                                title="A <small> square")
SOON = (datetime.now() + timedelta(days=30)).isoformat(timespec="minutes")


@pytest.fixture(scope="module")
def done(tmp_path_factory):
    folder = tmp_path_factory.mktemp("batch")
    film = write_film(folder / "film.mp4", frames=80)
    with BatchList(folder / "list.sqlite") as jobs:
        jobs.add([EncodeJob(str(film), str(folder / "out"), Recipe(SHEET)),
                  EncodeJob(str(folder / "none.mp4"), str(folder / "out"), Recipe(SHEET))])
        run_list(jobs.path, Control())
        return jobs.items()


@pytest.fixture
def bundle(done, tmp_path):
    return make_bundle(done, tmp_path / "bundle")


def test_the_report_tells_every_line_of_every_file_twice(done, tmp_path):
    html, data = write_report(done, tmp_path)
    told = json.loads(data.read_text())["files"]
    assert [file["right"] for file in told] == [True, False]
    lines = {line["what"] for line in told[0]["lines"]}
    assert {"canvas", "loudness", "true peak", "index"} <= lines
    assert "no such file" in told[1]["problem"]
    assert "LUFS, peak" in told[0]["sound"] and told[1]["sound"] == ""
    page = html.read_text()
    assert "A &lt;small&gt; square" in page and "1 of 2 files proved" in page
    seen = []
    parser = HTMLParser()
    parser.handle_starttag = lambda tag, attrs: seen.append((tag, dict(attrs)))
    parser.feed(page)
    (strip,) = [attrs["src"] for tag, attrs in seen if tag == "img"]
    with Image.open(tmp_path / unquote(strip)) as image:
        assert image.size == (8 * 180 + 7 * 4, 180)


def test_a_bundle_is_a_bag_that_other_tools_check(bundle):
    """RFC 8493, by the bagit package and by coreutils' sha256sum."""
    bagit.Bag(str(bundle)).validate()
    checked = subprocess.run(["sha256sum", "-c", "manifest-sha256.txt"], cwd=bundle, check=True,
                             capture_output=True, text=True)
    assert "data/film square-feed.mp4: OK" in checked.stdout
    assert [path.name for path in opened_bundle(bundle)] == ["film square-feed.mp4"]


def test_a_bundle_is_never_put_over_something(done, bundle, tmp_path):
    with pytest.raises(InputError, match="not empty"):
        make_bundle(done, bundle)
    with pytest.raises(InputError, match="done yet"):
        make_bundle(done[1:], tmp_path / "other")


def test_a_changed_bundle_is_refused(bundle):
    movie = bundle / "data" / "film square-feed.mp4"
    movie.write_bytes(movie.read_bytes()[:-1] + b"x")
    with pytest.raises(InputError, match="was changed"):
        opened_bundle(bundle)
    with pytest.raises(InputError, match="not a bundle"):
        opened_bundle(bundle.parent)


@pytest.mark.parametrize("damage", [b"\xe5", b"Tag-File-Character-Encoding: odd\n", b"\0" * 40])
def test_a_bundle_whose_tag_file_is_damaged_is_refused(bundle, damage):
    tags = bundle / "bagit.txt"
    tags.write_bytes(damage + tags.read_bytes()[len(damage):])
    with pytest.raises(InputError, match=r"not a bundle|was changed"):
        opened_bundle(bundle)


def test_the_desk_takes_what_is_right_and_keeps_a_schedule(bundle, tmp_path):
    desk = Desk(tmp_path / "desk")
    (answer,) = desk.receive(bundle, SHEET, Post("Kiln day", "On the quay.", ("kiln",), SOON))
    assert answer.accepted
    (entry,) = desk.entries()
    assert (desk.folder / entry.file).is_file() and entry.post.title == "Kiln day"
    assert desk.due(datetime.now()) == () and desk.due(datetime.fromisoformat(SOON)) == (entry,)
    desk.withdraw(entry.id)
    assert desk.entries() == () and not (desk.folder / entry.file).exists()
    with pytest.raises(InputError):
        desk.withdraw(entry.id)


@pytest.mark.parametrize(("post", "reason"), [
    (Post(""), "title"), (Post("x" * (TITLE_MOST + 1)), "title"), (Post("x", date="soon"), "date"),
    (Post("x", date="2020-01-01T10:00"), "in the past"), (Post("x", tags=("two words",)), "tags"),
])
def test_the_desk_refuses_odd_posts_with_reasons(bundle, tmp_path, post, reason):
    desk = Desk(tmp_path / "desk")
    (answer,) = desk.receive(bundle, SHEET, post)
    assert not answer.accepted and reason in " ".join(answer.reasons) and desk.entries() == ()


def test_the_desk_applies_its_own_sheet(bundle, tmp_path, capsys):
    """A square delivered to a tall destination, on the command line."""
    words = ["desk", "deliver", str(bundle), "--spec", "vertical-short", "--title", "Kiln",
             "--outbox", str(tmp_path / "desk")]
    assert main(words) == 2 and "no movie for Vertical short" in capsys.readouterr().err
    (name,) = (path.name for path in (bundle / "data").glob("*.mp4"))
    assert main([*words, "--file", "none.mp4"]) == 2 and name in capsys.readouterr().err
    code = main([*words, "--file", name])
    assert code == 1 and "canvas: 180x180, asked 1080x1920" in capsys.readouterr().out
    assert main(["desk", "list", "--outbox", str(tmp_path / "desk"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == []


def test_files_of_one_name_from_two_folders_are_both_in_the_bundle(done, tmp_path):
    """Each with its own content, as the desk takes them; RFC 8493, 2.1.3, knows % by number only,
    which not every tool reads back."""
    (item, _) = done
    (made,) = item.status.made
    items = []
    for name in ("a/100% kiln.mp4", "b/100% kiln.mp4", "b/100_ KILN.mp4"):
        path = tmp_path / name
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(Path(made.file).read_bytes() + name.encode())
        items.append(msgspec.structs.replace(item, status=msgspec.structs.replace(
            item.status, made=(msgspec.structs.replace(made, file=str(path)),))))
    bundle = make_bundle(items, tmp_path / "bundle")
    found = {path.name: path.read_bytes()[-15:] for path in opened_bundle(bundle)}
    assert found == {"100_ kiln.mp4": b"a/100% kiln.mp4", "100_ kiln 2.mp4": b"b/100% kiln.mp4",
                     "100_ KILN 3.mp4": b"b/100_ KILN.mp4"}
    listed = (bundle / "manifest-sha256.txt").read_text()
    assert "%" not in listed and listed.count(".mp4") == 3
    told = json.loads((bundle / "data" / "report.json").read_text())["files"]
    assert {row["file"] for row in told} == set(found)
