"""A film while it is being looked at: shots come as they end, and a stop loses nothing."""

from __future__ import annotations

import os
from fractions import Fraction

import msgspec
import numpy as np
import pytest

from caracal.core.analysis.cache import AnalysisStore, content_key
from caracal.core.analysis.film_pass import analyse as pass_module
from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.film_pass.bars import BarFinder
from caracal.core.analysis.film_pass.builder import AnalysisBuilder, EndedShot
from caracal.core.analysis.film_pass.process import analyse_apart
from caracal.core.analysis.film_pass.unfinished import KeptShot, Unfinished
from caracal.core.analysis.model import ATTENTION_SHAPE, Boundary, FoundShot, Transition
from caracal.core.base.errors import Cancelled, InputError, StorageError
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken
from caracal.core.media.decode import frames
from caracal.core.media.proxy import ProxyReader, growing_folder
from caracal.core.project.keyframe_edits import (
    with_zoom,
)
from caracal.core.project.model import first_project
from caracal.core.project.shots import as_decided, joined_to_previous, split_at, starts_of
from conftest import DEMO, ffmpeg, ffprobe, open_window, solved

CUTS = [0, 76, 166]  # of the demo's first 9 s, as its script has them


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    """The demo's first 9 s, in the proxy's size: looked at in two thirds of the time."""
    made = tmp_path_factory.mktemp("growing") / "film.mp4"
    ffmpeg("-i", DEMO, "-t", "9", "-vf", "scale=960:540", "-preset", "ultrafast", "-crf", "14",
           "-c:a", "copy", made)
    return made


class Watcher:
    """What a looker-on is told, and what can be seen at that moment."""

    def __init__(self, root, token=None, stop_after=99):
        self.root, self.token, self.stop_after = root, token, stop_after
        self.growing, self.told, self.seen, self.snapshots = AnalysisBuilder(), [], [], []

    def __call__(self, grown):
        self.told.append(grown)
        for shot in grown.ended:
            self.growing.add(shot)
        self.snapshots.append(self.growing.so_far(grown))
        reader = ProxyReader(AnalysisStore(grown.key, self.root).proxy, grown.master.frame_rate)
        last = grown.known_to - 1
        self.seen.append((last, reader.planes(last).y.copy()))
        reader.close()
        if len(self.snapshots[-1].shots) > self.stop_after:
            self.token.cancel()


@pytest.fixture(scope="module")
def watched(film, tmp_path_factory):
    root = tmp_path_factory.mktemp("watched")
    watcher = Watcher(root)
    return watcher, analyse(film, root=root, grow=watcher)


def test_shots_come_while_the_film_is_looked_at_and_stay_as_they_are(watched):
    watcher, whole = watched
    assert [shot.start for shot in whole.shots] == CUTS
    early = next(snapshot for snapshot in watcher.snapshots if len(snapshot.shots) == 2)
    assert not early.whole and early.goes_on(1) and early.known_to < 220
    assert early.shots[0] == whole.shots[0]
    assert early.tracks_in(0) == whole.tracks_in(0)
    assert early.words_in(0) == whole.words_in(0) != ()
    known = [snapshot.known_to for snapshot in watcher.snapshots]
    assert known == sorted(known) and known[0] <= 25


def test_sound_and_camera_are_whole_at_the_end(watched):
    _, whole = watched
    count = whole.master.frames
    assert len(whole.sound.peaks) == (count - 1) * 10 // 25 + 1 and len(whole.camera) == 8 * count
    assert whole.whole and not whole.goes_on(len(whole.shots) - 1)


def test_what_is_known_can_be_seen_at_once(watched):
    """The proxy's picture is that of the film: both are decoded here, apart."""
    watcher, whole = watched
    for last, seen in watcher.seen[:: max(1, len(watcher.seen) // 6)]:
        (_, planes), *_ = frames(whole.master, FrameRange(last, last + 1))
        assert np.abs(planes.y.astype(float) - seen).mean() < 3.0


def test_nothing_but_the_analysis_is_left(watched):
    watcher, whole = watched
    folder = AnalysisStore(whole.content_key, watcher.root).folder
    assert files_in(folder) == ["analysis.msgpack", "proxy.mp4", "source.msgpack"]
    stream = ffprobe(folder / "proxy.mp4")["streams"][0]
    assert int(stream["nb_frames"]) == whole.master.frames


def test_what_is_kept_is_three_hundredths_of_a_camera_s_master_at_most():
    """Of 25 Mb/s, also of the demo, whose drawn edges need more than filmed pictures do."""
    whole = analyse(DEMO)
    kept = sum(file.stat().st_size for file in AnalysisStore(whole.content_key).folder.iterdir())
    assert kept <= 0.03 * 25e6 / 8 * whole.master.frames / float(whole.master.rate)


@pytest.fixture
def told_often(monkeypatch):
    """Shots are told at once, so that a stop comes before the end on quick machines too."""
    monkeypatch.setattr(pass_module, "TELL_EVERY_S", 0.0)


def test_a_stop_keeps_what_was_found_and_the_next_time_goes_on_from_there(
        film, watched, tmp_path, told_often):
    _, whole = watched
    token = CancelToken()
    first = Watcher(tmp_path, token, stop_after=1)
    with pytest.raises(Cancelled):
        analyse(film, cancel=token, root=tmp_path, grow=first)
    done = []
    second = Watcher(tmp_path)
    again = analyse(film, lambda progress: done.append(progress.done), root=tmp_path, grow=second)
    assert min(done) > 76  # what was done is not done again
    assert [ended.shot.start for ended in second.told[0].ended] == CUTS[: len(second.told[0].ended)]
    assert len(second.told[0].ended) >= 1
    assert second.told[0].ended[0].shot == whole.shots[0]
    assert [(shot.start, shot.end) for shot in again.shots] == [
        (shot.start, shot.end) for shot in whole.shots]
    assert [track.kind for track in again.tracks_in(1)] == [
        track.kind for track in whole.tracks_in(1)
    ]
    assert again.active == whole.active
    apart = np.abs(np.subtract(again.sound.peaks, whole.sound.peaks))
    assert apart.mean() < 0.005 and apart.max() < 0.06  # resampled from another sample on
    folder = AnalysisStore(again.content_key, tmp_path).folder
    assert files_in(folder) == ["analysis.msgpack", "proxy.mp4", "source.msgpack"]
    reader = ProxyReader(folder / "proxy.mp4", "25/1")
    for frame in (0, 75, 76, 180, 220):  # across the place where it was stopped
        (_, planes), *_ = frames(whole.master, FrameRange(frame, frame + 1))
        assert np.abs(planes.y.astype(float) - reader.planes(frame).y).mean() < 3.0
    reader.close()


def test_a_process_that_is_ended_loses_only_the_shot_at_hand(film, tmp_path, told_often):
    """The last record is cut off, as by a full disk or a pulled plug."""
    token = CancelToken()
    with pytest.raises(Cancelled):
        analyse(film, cancel=token, root=tmp_path, grow=Watcher(tmp_path, token, stop_after=1))
    (folder,) = tmp_path.iterdir()
    kept = growing_folder(folder / "proxy.mp4") / "shots"
    kept.write_bytes(kept.read_bytes()[:-100])
    unfinished = Unfinished(film, folder / "proxy.mp4")
    whole, size = unfinished.begin(), kept.stat().st_size
    assert not whole and size > 8  # the one shot was cut off; what is said of the film stays
    shot = KeptShot(EndedShot(FoundShot(0, 76, Transition.START, None, (), 30), (), (), b"", ()),
                    Boundary(76, Transition.CUT), (b"", b""))
    unfinished.keep(shot)
    assert Unfinished(film, folder / "proxy.mp4").begin() == [shot]
    os.utime(film, ns=(1, film.stat().st_mtime_ns + 10**9))
    assert Unfinished(film, folder / "proxy.mp4").begin() == []  # another film by now
    assert not list(growing_folder(folder / "proxy.mp4").glob("*.mp4"))


def test_who_does_not_hold_the_store_removes_nothing_of_another_s(film, tmp_path, monkeypatch):
    """Another process looks at the film; this one fails before it is its turn."""
    store = AnalysisStore(content_key(film), tmp_path)
    other = growing_folder(store.proxy)
    other.mkdir(parents=True)
    (other / "000000000.mp4").touch()

    def refuses(self, cancel):
        raise StorageError("This folder is gone.", self.folder)

    monkeypatch.setattr(AnalysisStore, "alone", refuses)
    with pytest.raises(StorageError):
        analyse(film, root=tmp_path)
    assert files_in(other) == ["000000000.mp4"]


def test_a_damaged_film_leaves_nothing_behind(film, tmp_path):
    broken = tmp_path / "broken.ts"
    ffmpeg("-i", film, "-c", "copy", broken)
    data = broken.read_bytes()
    broken.write_bytes(data[: len(data) // 2])
    # Its length is told by a clock that goes on: the picture is not.
    root = tmp_path / "cache"
    master = analyse(broken, root=root).master
    assert master.frames < 250  # a stream that is cut off is a shorter film

    short = tmp_path / "short.mp4"
    ffmpeg("-i", film, "-c", "copy", "-movflags", "+faststart", short)
    data = short.read_bytes()
    short.write_bytes(data[: len(data) * 3 // 4])
    with pytest.raises(InputError):
        analyse(short, root=tmp_path / "other")
    assert not [path for path in (tmp_path / "other").rglob("*") if path.is_file()]


def test_bars_go_on_from_where_they_were():
    rng = np.random.default_rng(3)
    first, two = BarFinder(), BarFinder()
    for _ in range(4):
        picture = rng.integers(17, 120, (360, 640), np.uint8)
        picture[:40] = picture[320:] = 16
        first.add(picture)
    two.restore(*first.state())
    assert two.active(640, 360) == first.active(640, 360) == (0, 40, 640, 280)
    empty = BarFinder()
    empty.restore(*BarFinder().state())
    assert empty.active(640, 360) == (0, 0, 640, 360)


def test_a_shot_that_goes_on_is_there_and_says_so(watched):
    watcher, _ = watched
    first = watcher.snapshots[0]
    assert len(first.shots) == 1 and first.goes_on(0) and not first.tracks
    assert first.shots[0].start <= first.shots[0].poster_frame < first.known_to
    assert len(first.shots[0].attention) == ATTENTION_SHAPE[0] * ATTENTION_SHAPE[1]
    told = msgspec.structs.replace(watcher.told[0], edge=Boundary(0, Transition.START), known_to=0)
    assert AnalysisBuilder().so_far(told).shots == ()


def test_cuts_corrected_early_hold_and_later_shots_follow(watched):
    """Split and joined in the middle of it, as if the film had been whole."""
    watcher, whole = watched
    early = next(snapshot for snapshot in watcher.snapshots if len(snapshot.shots) == 2)
    project = split_at(early, first_project(whole.master.frames), 30)
    project = joined_to_previous(early, project, 2)  # the shot that goes on, to the one before
    assert [shot_start.frame for shot_start in starts_of(early, project)] == [0, 30]
    assert [start.frame for start in starts_of(whole, project)] == [0, 30, 166]
    made = as_decided(whole, project.starts, ())
    assert [(shot.start, shot.end) for shot in made.shots] == [
        (0, 30), (30, 166), (166, whole.master.frames)]
    then = as_decided(early, project.starts, ())
    assert then.goes_on(1) and then.shots[-1].end == early.known_to
    later = split_at(whole, project, 200)
    assert later.starts[-1].found_after is None
    assert [start.frame for start in later.starts] == [0, 30, 166, 200]


def test_the_process_apart_tells_as_well(film, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path))
    told = []
    whole = analyse_apart(film, lambda _: None, CancelToken(), told.append)
    assert sum(len(grown.ended) for grown in told) >= 1
    assert told[0].known_to < 60 and told[0].master.frames == whole.known_to
    assert Fraction(told[0].master.frame_rate) == 25


@pytest.fixture
def fresh(qtbot, qapp, tmp_path, monkeypatch, film):
    """A window on the film of which nothing is known yet."""
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path / "cache"))
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    made = open_window(qtbot, qapp, tmp_path, film)
    yield made
    made.end()


def test_shots_appear_in_the_window_and_edits_hold_through_the_end(qtbot, fresh):
    session = fresh.film.session
    assert not session.found.whole
    qtbot.waitUntil(fresh.film.growing.isVisible, timeout=10_000)
    assert session.told("A", 0).lead == "analysing" or len(session.analysis.shots) > 1
    qtbot.waitUntil(lambda: len(session.analysis.shots) >= 2, timeout=60_000)
    assert fresh.analysing is not None  # it is still being looked at
    session.edit(with_zoom(session.project, "A", 0, 1.5), "Zoom chosen.")
    fresh.film.batch.start()
    assert "still being analysed" in fresh.statusBar().currentMessage()
    session.go(220)
    assert session.frame < session.analysis.known_to
    qtbot.waitUntil(lambda: session.found.whole, timeout=60_000)
    assert not fresh.film.growing.isVisible()
    assert [shot.start for shot in session.analysis.shots] == CUTS
    assert session.project.choice("A", 0).zoom == 1.5
    assert solved(session, "A", 0).windows[0][3] == pytest.approx(540 / 1.5)
    assert fresh.film.batch.versions.plan.jobs()


def test_what_somebody_is_at_stays_while_the_film_grows(qtbot, fresh):
    """A button that is pressed and a number that is typed outlive what comes in meanwhile."""
    session, aim = fresh.film.session, fresh.film.aim
    qtbot.waitUntil(lambda: len(session.analysis.shots) >= 2, timeout=60_000)
    session.go(session.analysis.shots[0].poster_frame)
    fresh.film.show_view("Aim")
    solved(session, "A", 0)
    shown = aim.people.widget()
    aim.moves.centre_x.setFocus()
    qtbot.waitUntil(aim.moves.centre_x.hasFocus, timeout=5_000)
    aim.moves.centre_x.lineEdit().selectAll()
    qtbot.keyClicks(aim.moves.centre_x, "77")
    session.grow(session.found)
    assert aim.people.widget() is shown
    assert aim.moves.centre_x.lineEdit().text().startswith("77")


def test_looking_is_stopped_and_gone_on_with(qtbot, fresh):
    session = fresh.film.session
    qtbot.waitUntil(lambda: len(session.analysis.shots) >= 2, timeout=60_000)
    fresh.film.growing.button.click()
    qtbot.waitUntil(lambda: fresh.analysing is None, timeout=20_000)
    assert fresh.film is not None and "stopped at" in fresh.film.growing.words.text()
    shots = len(session.analysis.shots)
    assert shots >= 2
    session.edit(split_project(session, 30), "Shot split.")
    fresh.film.growing.button.click()
    qtbot.waitUntil(lambda: session.found.whole, timeout=60_000)
    assert [shot.start for shot in session.analysis.shots] == [0, 30, *CUTS[1:]]


def test_a_film_closed_half_way_goes_on_when_it_is_opened_again(qtbot, fresh, film):
    session = fresh.film.session
    qtbot.waitUntil(lambda: len(session.analysis.shots) >= 2, timeout=60_000)
    fresh.close_film()
    assert fresh.film is None
    fresh.open_film(film)
    qtbot.waitUntil(lambda: fresh.film is not None, timeout=30_000)
    assert len(fresh.film.session.analysis.shots) >= 2  # at once
    qtbot.waitUntil(lambda: fresh.film.session.found.whole, timeout=60_000)
    assert [shot.start for shot in fresh.film.session.analysis.shots] == CUTS


def files_in(folder):
    return sorted(path.name for path in folder.iterdir())


def split_project(session, frame):
    return split_at(session.found, session.project, frame)
