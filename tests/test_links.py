"""No file of ours is written through a link: a link at any name that we write destroys nothing."""

import ast
import errno
import os
from pathlib import Path

import numpy as np
import pytest

from caracal.cli.integrate import PLACES, integrate
from caracal.cli.main import main, parser
from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.atomic_write import new_content, open_own, write_bytes, write_text
from caracal.core.base.errors import StorageError
from caracal.core.base.logs import keep_log, log
from caracal.core.batch.bundle import make_bundle
from caracal.core.batch.list_lock import worked_by_us
from caracal.core.batch.report import write_report
from caracal.core.desk.desk import Desk, Post
from caracal.core.exchange.caption_files import write_captions
from caracal.core.layout.files import write_layout
from caracal.core.layout.model import FILL, PictureFile
from caracal.core.media.sound_file import FlacWriter
from caracal.core.project.model import first_project
from caracal.core.project.storage import document, write_document
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from caracal.core.text.cues import Cue
from caracal.ui.session.ownership import Ownership
from conftest import write_film
from test_handing_over import SHEET, SOON, done  # noqa: F401 - a fixture

PRECIOUS = b"a master of three hours"


def symlink(precious, name):
    name.symlink_to(precious)


def hard_link(precious, name):
    os.link(precious, name)


LINKS = pytest.mark.parametrize("link", [symlink, hard_link])


@pytest.fixture
def precious(tmp_path):
    file = tmp_path / "master.mp4"
    file.write_bytes(PRECIOUS)
    return file


def laid(folder, name):
    """The data folder's entry, icon and so on, by the real command."""
    arguments = parser().parse_args(["integrate", "--force", "--into", str(folder)])
    integrate(arguments)
    assert (folder / name).stat().st_nlink == 1


WRITERS = {  # names below a folder, and what writes a file of that name there
    "kiln.caracal": lambda folder, name, demo: write_document(
        folder / name, document(demo, first_project(100))),
    "mine.toml": lambda folder, name, _: write_sheet(find_sheet("wide"), folder / name),
    "layout.toml": lambda folder, name, _: write_layout(folder / name, FILL),
    "said.srt": lambda folder, name, _: write_captions(folder / name, [Cue(0.0, 1.0, "Hello")]),
    f"{PLACES['caracal.svg']}/caracal.svg": lambda folder, name, _: laid(folder, name),
    f"{PLACES['caracal.desktop']}/caracal.desktop": lambda folder, name, _: laid(folder, name),
}


@LINKS
@pytest.mark.parametrize("name", WRITERS)
@pytest.mark.parametrize("ending", ["", ".part"])
def test_a_link_at_the_name_or_its_part_destroys_no_master(
    demo, tmp_path, precious, link, name, ending
):
    at = tmp_path / "out" / f"{name}{ending}"
    at.parent.mkdir(parents=True)
    link(precious, at)
    WRITERS[name](tmp_path / "out", name, demo)
    assert precious.read_bytes() == PRECIOUS
    made = tmp_path / "out" / name
    assert made.is_file() and not made.is_symlink() and made.read_bytes() != PRECIOUS


@LINKS
def test_reports_bundles_and_outboxes_destroy_no_master(done, tmp_path, precious, link):  # noqa: F811
    names = ("report/report.html", "report/report.json", "report/report.json.part",
             "report/strips/film square-feed.jpg", "outbox/schedule.json",
             "outbox/schedule.json.part")
    for name in names:
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        if name != "outbox/schedule.json":  # read first: it would be refused as damaged
            link(precious, tmp_path / name)
    write_report(done, tmp_path / "report")
    bundle = make_bundle(done, tmp_path / "bundle")
    assert Desk(tmp_path / "outbox").receive(bundle, SHEET, Post("Kiln day", date=SOON))[0].accepted
    assert precious.read_bytes() == PRECIOUS
    for name in names:
        if not name.endswith(".part"):
            assert (tmp_path / name).stat().st_nlink == 1 and not (tmp_path / name).is_symlink()


def test_a_folder_named_like_a_bundle_in_the_making_is_left_alone(done, tmp_path):  # noqa: F811
    (tmp_path / "bundle.part").mkdir()
    (tmp_path / "bundle.part" / "mine").write_text("kept")
    make_bundle(done, tmp_path / "bundle")
    assert (tmp_path / "bundle.part" / "mine").read_text() == "kept"


@LINKS
def test_state_and_cache_destroy_no_master(tmp_path, precious, link, monkeypatch):
    """The log, the lock of a list, who owns a film, and all that an analysis keeps."""
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    film = write_film(tmp_path / "film.mp4", frames=30)
    key = AnalysisStore(analyse(film, root=tmp_path / "first").content_key).folder.name
    work = tmp_path / "state" / "work"
    store = tmp_path / "cache" / key
    names = [tmp_path / "state" / "log" / "caracal.log", tmp_path / "batch.sqlite.lock",
             work / "film.owner", work / "film.lock", store / "proxy.part", store / "in-use.lock",
             store / "proxy" / "000000000.part", store / "proxy" / "shots.part",
             store / "analysis.msgpack", store / "source.msgpack", store / "proxy" / "shots"]
    for name in names:
        name.parent.mkdir(parents=True, exist_ok=True)
        link(precious, name)
    keep_log("test")
    log.error("a line of the log")
    try:
        with worked_by_us(tmp_path / "batch.sqlite"):
            pass
    except StorageError as problem:
        assert "link" in problem.sentence()
    Ownership("film").close()
    analyse(film, root=tmp_path / "cache")
    assert precious.read_bytes() == PRECIOUS


@LINKS
def test_copies_beside_a_brand_destroy_nothing(tmp_path, precious, link):
    """A file of the name that a copy would have stays; the copy gets the next number."""
    from PIL import Image

    from caracal.core.project.brand import Brand, Logo
    from caracal.core.project.brand_files import read_brand, write_brand

    Image.new("RGB", (8, 8), (200, 30, 30)).save(tmp_path / "logo.png")
    (tmp_path / "out").mkdir()
    link(precious, tmp_path / "out" / "quay 1.png")
    brand = Brand("quay", logos=(Logo(PictureFile(str(tmp_path / "logo.png"))),))
    for _ in range(2):  # a second time the copy of before serves
        write_brand(tmp_path / "out" / "quay.toml", brand)
        assert precious.read_bytes() == PRECIOUS
        (logo,) = read_brand(tmp_path / "out" / "quay.toml").logos
        assert Path(logo.picture.path).name == "quay 2.png"


def test_an_explicit_log_follows_no_link_either(tmp_path, precious):
    (tmp_path / "x.log").symlink_to(precious)
    assert main(["--log", str(tmp_path / "x.log"), "look", str(tmp_path / "none.mp4")]) == 2
    assert precious.read_bytes() == PRECIOUS


def test_a_failed_write_leaves_the_old_content_and_nothing_beside(tmp_path):
    write_text(tmp_path / "a.txt", "old")
    with pytest.raises(ValueError, match="half"), new_content(tmp_path / "a.txt") as file:
        file.write(b"ne")
        raise ValueError("half")
    assert [path.name for path in tmp_path.iterdir()] == ["a.txt"]
    assert (tmp_path / "a.txt").read_text() == "old"
    (tmp_path / "folder").mkdir()
    with pytest.raises(StorageError, match="exists already"):
        write_text(tmp_path / "folder", "text")
    with pytest.raises(StorageError, match="does not exist"):
        write_bytes(tmp_path / "none" / "a.txt", b"")
    assert sorted(path.name for path in tmp_path.iterdir()) == ["a.txt", "folder"]


def test_a_name_as_long_as_names_can_be_is_written(tmp_path):
    write_text(tmp_path / ("n" * 255), "long")
    assert (tmp_path / ("n" * 255)).read_text() == "long"


def test_a_file_of_ours_that_changes_in_place_is_no_link(tmp_path, precious):
    os.close(open_own(tmp_path / "own", os.O_WRONLY))
    for link in (symlink, hard_link):
        name = tmp_path / link.__name__
        link(precious, name)
        with pytest.raises(OSError) as told:  # in whichever language the system speaks by now
            open_own(name, os.O_WRONLY)
        assert told.value.errno == errno.ELOOP


def test_a_sound_file_replaces_a_link_and_not_what_it_leads_to(tmp_path, precious):
    before = precious.read_bytes()
    for link in (symlink, hard_link):
        name = tmp_path / f"{link.__name__}.flac"
        link(precious, name)
        writer = FlacWriter(name, 48000, 1)
        writer.write(np.zeros((4800, 1), np.float32))
        writer.finish()
        assert precious.read_bytes() == before and not name.is_symlink()


def test_nothing_else_in_the_program_writes_a_file():
    """Whatever opens a file for writing beside atomic_write is named here, with its reason."""
    allowed = {
        "core/base/atomic_write.py", "core/base/logs.py",
        "core/batch/cluster.py",  # pieces, in a folder of its own that is removed
        "core/media/decode.py",  # a colour table, likewise
        "cli/specs.py",  # standard input, likewise
        "core/sound/coder_trial.py",  # into memory
        "core/media/sound_file.py",  # FFmpeg, which clears away what lies there
        "core/media/encode.py",  # FFmpeg, into a file that its caller has created or cleared away
    }
    source = Path(__file__).parent.parent / "src" / "caracal"
    found = set()
    for file in [path for path in source.rglob("*.py") if "demo" not in path.parts[:-1]]:
        for call in ast.walk(ast.parse(file.read_text())):
            if not isinstance(call, ast.Call):
                continue
            name = getattr(call.func, "attr", getattr(call.func, "id", ""))
            modes = [arg.value for arg in (*call.args, *(word.value for word in call.keywords))
                     if isinstance(arg, ast.Constant) and isinstance(arg.value, str)]
            writes = name in ("open", "NamedTemporaryFile") and any(
                set(mode) <= set("rwaxbt+") and set(mode) & set("wax+") for mode in modes)
            owner = getattr(getattr(call.func, "value", None), "id", "")
            copies = owner == "shutil" and name.startswith("copy") and name != "copyfileobj"
            if writes or copies or (name in ("write_text", "write_bytes") and owner):
                found.add(str(file.relative_to(source)))
    assert found <= allowed
