"""Clips and stills in a version: which of their pictures is seen when, beside what FFmpeg decodes;
where their sound is heard; and bad ones."""

import subprocess
import wave
from fractions import Fraction
from pathlib import Path

import av
import msgspec
import numpy as np
import pytest

from caracal.cli.main import main
from caracal.core.base.errors import InputError
from caracal.core.base.resources import asset_file
from caracal.core.base.time import FrameRange
from caracal.core.convert import convert
from caracal.core.framing.choice import PLAIN
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.entrance import Entry
from caracal.core.layout.kinds import fill, stack
from caracal.core.layout.model import (
    Clip,
    Layout,
    Pane,
    PictureFile,
    PlainBackdrop,
    Still,
    with_backdrop,
)
from caracal.core.layout.overlay import Overlay, OwnSound, overlay_error
from caracal.core.layout.shipped_assets import MOVING_BACKDROPS, moving_backdrop
from caracal.core.media.planes import Planes
from caracal.core.media.probe import probe
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Fades, first_project, veils
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.project.template import Template, TimedOverlay, write_template
from caracal.core.render.assets.checks import film_of, refuse_bad_asset
from caracal.core.render.assets.clips import ClipReader, frame_at
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import layers_of
from caracal.core.render.scene import Scene
from caracal.core.sound.mix import ClipSound, clip_sounds
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet, write_sheet
from conftest import ffmpeg, write_film

CANVAS = (180, 320)
PICTURE = (0.0, 0.0, 320.0, 180.0)
STEP = 4  # levels of luma from one frame of a film to the next
FIRST = 40


def ramp(number, y):
    """A picture whose brightness tells its number."""
    y[:] = FIRST + STEP * (number % 50)
    return y


def number_in(picture):
    """The number of the picture that :func:`ramp` drew, from its brightness."""
    return (float(np.mean(picture)) - FIRST) / STEP


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    """Two seconds, 25 pictures a second, with sound."""
    return write_film(tmp_path_factory.mktemp("clips") / "clip.mp4", picture=ramp)


def planes(level=90):
    chroma = np.full((90, 160), 128, np.uint8)
    return Planes(np.full((180, 320), level, np.uint8), chroma, chroma.copy(), (0.0, 0.5))


def shown(content, moment_s, fit=False):
    """The luma of a canvas all of which shows ``content``."""
    layout = Layout("x", (Pane(PlainBackdrop("#000000")), Pane(content)))
    layers = layers_of(layout, CANVAS, [PICTURE], PICTURE, PLAIN, moment_s)
    return compose_pictures(Scene(CANVAS, layers), planes())[0]


@pytest.mark.parametrize("name", MOVING_BACKDROPS)
def test_slow_slopes_of_backdrops_that_ship_are_no_steps(name):
    """Along a row a level of 8 bit lasts some pixels; in bands it lasts tens or hundreds."""
    with av.open(str(asset_file(moving_backdrop(name).path))) as container:
        picture = next(container.decode(video=0)).to_ndarray(format="yuv420p")
    side = picture.shape[1]
    for plane in (picture[:side], picture[side:].reshape(side, side // 2)):  # luma; both chromas
        changes = (np.diff(plane.astype(int), axis=1) != 0).sum()
        assert plane.size / (1 + changes) < 15


def test_a_clip_shows_its_picture_of_that_moment(clip):
    # On paper: 25 pictures a second; 0.5 s in, picture 12; picture 0 stands before the beginning.
    for start_s, moment_s, wanted in ((0, 0, 0), (0, 0.5, 12), (1.0, 0.48, 37), (-1.0, 0.2, 0),
                                      (-1.0, 1.2, 5), (0, 1.96, 49)):
        assert number_in(shown(Clip(str(clip), start_s=start_s), moment_s)) == pytest.approx(
            wanted, abs=0.3), (start_s, moment_s)


def test_a_clip_begins_anew_or_its_last_picture_stands(clip):
    assert number_in(shown(Clip(str(clip)), 2.0)) == pytest.approx(0, abs=0.3)
    assert number_in(shown(Clip(str(clip)), 101.2)) == pytest.approx(30, abs=0.3)
    assert number_in(shown(Clip(str(clip), loops=False), 9.0)) == pytest.approx(49, abs=0.3)


def test_a_clip_that_lies_whole_leaves_bars(clip):
    seen = shown(Clip(str(clip), fit=True), 1.0)
    # 180 wide, 101.25 high, at even pixels: rows 110 to 212 or about.
    assert np.all(seen[:108] == 16) and np.all(seen[214:] == 16)
    assert number_in(seen[114:208]) == pytest.approx(25, abs=0.3)


def test_a_reader_goes_on_forwards_and_finds_its_way_back(clip):
    reader = ClipReader(clip)
    for frame in (0, 1, 5, 49, 3, 3, 48, 0):
        assert number_in(reader.planes(frame).y) == pytest.approx(frame, abs=0.3)


@pytest.mark.parametrize("rate", ["24/1", "30000/1001", "50/1"])
def test_clips_of_other_rates_go_by_their_own_clock(tmp_path, rate):
    film = write_film(tmp_path / "other.mp4", rate=rate, picture=ramp, sound=False)
    master = probe(film)
    content = Clip(str(film), loops=False)
    for frame in (0, 7, 20, 25):  # of a film of 25 pictures a second
        at = Fraction(frame, 25)
        exact = at * Fraction(rate)
        wanted = min(49, exact.numerator // exact.denominator)
        assert frame_at(content, float(at), master) == wanted
        assert number_in(shown(content, float(at))) == pytest.approx(wanted, abs=0.3)


def test_a_still_holds_its_moment_and_its_part(clip, tmp_path):
    assert number_in(shown(Still(str(clip), 1.0), 0.4)) == pytest.approx(25, abs=0.3)
    half = write_film(tmp_path / "half.mp4", frames=3, sound=False,
                      picture=lambda _, y: np.hstack([y[:, :160] * 0 + 50, y[:, 160:] * 0 + 200]))
    right = shown(Still(str(half), 0.0, ((0.55, 1.0), (0.0, 1.0))), 0.0)
    assert np.abs(right.astype(int) - 200).max() <= 3


def made(film, folder, overlays=(), layout=None, change=(), ranges=(), replace=False):
    sheet = find_sheet("vertical-short")
    for name, value in (("canvas", (180, 320)), ("duration.least_s", 0.5), *change):
        sheet = with_value(sheet, name, value)
    recipe = Recipe(sheet, overlays=overlays, ranges=ranges, layout=layout or fill())
    (result,) = convert(film, [recipe], folder, replace=replace)
    return result


def brightness(path, rows=slice(None)):
    """The mean luma of ``rows`` of each frame, as FFmpeg decodes it."""
    raw = subprocess.run(["ffmpeg", "-v", "error", "-i", str(path), "-f", "rawvideo", "-"],
                         check=True, capture_output=True).stdout
    width, height = CANVAS
    frames = np.frombuffer(raw, np.uint8).reshape(-1, height * 3 // 2, width)
    return frames[:, :height][:, rows].mean(axis=(1, 2))


def loud(path, start_s, end_s, tmp_path):
    """The level (RMS) of a stretch of a file's sound, as FFmpeg decodes it."""
    out = tmp_path / "sound.wav"
    ffmpeg("-i", path, "-vn", "-ac", "1", "-c:a", "pcm_s16le", out)
    with wave.open(str(out)) as found:
        data = np.frombuffer(found.readframes(found.getnframes()), np.int16) / 32768
        rate = found.getframerate()
    return float(np.sqrt(np.mean(data[round(start_s * rate) : round(end_s * rate)] ** 2)))


def test_a_file_shows_the_clip_over_its_stretch_and_hears_it(clip, tmp_path):
    film = write_film(tmp_path / "film.mp4", sound=False, frames=75,
                      picture=lambda _, y: y * 0 + 100)
    over = Overlay(Clip(str(clip)), 10, 40, entry=Entry.NONE, exit=Entry.NONE, sound=OwnSound.ON)
    result = made(film, tmp_path / "out", (over,))
    assert result.proof.right, result.proof
    seen = brightness(result.file)
    assert len(seen) == 75
    assert np.abs(seen[:10] - 100).max() <= 3 and np.abs(seen[40:] - 100).max() <= 3
    numbers = (seen[10:40] - FIRST) / STEP
    assert np.abs(numbers - np.arange(30)).max() <= 0.6
    assert loud(result.file, 0.5, 1.5, tmp_path) > 0.01
    for silent in ((0.0, 0.35), (1.7, 2.9)):
        assert loud(result.file, *silent, tmp_path) < 1e-4


def test_a_clip_in_a_pane_of_a_layout_goes_by_the_film_s_time(clip, tmp_path):
    film = write_film(tmp_path / "film.mp4", sound=False, frames=60,
                      picture=lambda _, y: y * 0 + 100)
    layout = stack(find_sheet("vertical-short").frame)
    pane = msgspec.structs.replace(layout.panes[1], content=Clip(str(clip), start_s=-0.4))
    layout = msgspec.structs.replace(layout, panes=(layout.panes[0], pane))
    result = made(film, tmp_path / "out", layout=layout, ranges=(FrameRange(20, 50),))
    assert result.proof.right, result.proof
    numbers = (brightness(result.file, slice(160, None)) - FIRST) / STEP
    # Frame 20 of the film is 0.8 s; the clip begins at 0.4 s: its picture 10 is seen first.
    assert np.abs(numbers - np.arange(10, 40)).max() <= 0.6


def test_sound_fades_with_the_picture(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=100)
    span = (FrameRange(0, 100),)
    faded = made(film, tmp_path / "a", veils(Fades(begin=50, end=25), span), ranges=span,
                 change=(("sound.loudness_lufs", None),))
    plain = made(film, tmp_path / "b", ranges=span, change=(("sound.loudness_lufs", None),))
    assert faded.proof.right and plain.proof.right
    ratio = [loud(faded.file, at, at + 0.2, tmp_path) / loud(plain.file, at, at + 0.2, tmp_path)
             for at in (0.4, 0.9, 1.4, 2.4, 3.4)]
    # Straight ramps, on paper: the middle of each fifth of a second.
    assert ratio == pytest.approx([0.25, 0.5, 0.75, 1.0, 0.5], abs=0.04)


def test_loops_and_ends_of_a_clip_s_sound_add_up(clip):
    film = film_of(Clip(str(clip)))
    whole = 2 * 48000
    clip_sound = ClipSound(film, 25, 150, start_s=1.5)
    found = clip_sounds(clip_sound, FrameRange(0, 200), Fraction(25), 0, 8 * 48000, 48000)
    # From 1 s to 6 s: half a second of the clip, two whole ones, and half a second.
    assert [(each.at, each.first, each.count) for each in found] == [
        (48000, 72000, 24000), (72000, 0, whole), (168000, 0, whole), (264000, 0, 24000)]
    once = clip_sounds(msgspec.structs.replace(clip_sound, loops=False), FrameRange(0, 200),
                       Fraction(25), 0, 8 * 48000, 48000)
    assert [(each.at, each.count) for each in once] == [(48000, 24000)]
    later = clip_sounds(msgspec.structs.replace(clip_sound, start_s=-1.0), FrameRange(50, 75),
                        Fraction(25), 1000, 1000 + 48000, 48000)
    assert [(each.at, each.first, each.count) for each in later] == [(1000, 0, 48000)]


def test_a_clip_is_never_written_over(clip, tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=30)
    own = tmp_path / "out"
    own.mkdir()
    (own / "film.mp4").hardlink_to(clip)
    before = clip.read_bytes()
    over = Overlay(Clip(str(clip)), 0, 20)
    with pytest.raises(InputError, match="never overwritten"):
        made(film, own, (over,), change=(("file.names", "{film}"),), replace=True)
    assert clip.read_bytes() == before


def bad_clips(folder, clip):
    """What people give as a clip and cannot be one, and what is said of it."""
    folder = Path(folder)
    (folder / "empty.mp4").write_bytes(b"")
    (folder / "words.mp4").write_text("no film")
    (folder / "cut.mp4").write_bytes(clip.read_bytes()[:2000])
    (folder / "folder.mp4").mkdir()
    ffmpeg("-f", "lavfi", "-i", "sine=d=1", folder / "sound.m4a")
    return ["none.mp4", "empty.mp4", "words.mp4", "cut.mp4", "folder.mp4", "sound.m4a"]


def test_bad_clips_end_in_a_sentence_with_their_name(clip, tmp_path):
    for name in bad_clips(tmp_path, clip):
        for content in (Clip(str(tmp_path / name)), Still(str(tmp_path / name))):
            with pytest.raises(InputError) as told:
                refuse_bad_asset(content)
            assert name in told.value.sentence(), told.value.sentence()
    with pytest.raises(InputError, match="ends before"):
        refuse_bad_asset(Still(str(clip), 5.0))


def test_odd_clips_are_shown(clip, tmp_path):
    """Variable rate, turned, interlaced, HDR and odd sizes are clips like others."""
    odd = tmp_path / "vfr.mkv"
    ffmpeg("-i", clip, "-vf", "select='not(mod(n,3))'", "-fps_mode", "vfr", "-an", odd)
    wide = tmp_path / "odd.mkv"
    ffmpeg("-i", clip, "-vf", "scale=211:97", "-pix_fmt", "yuv444p", "-an", wide)
    hdr = tmp_path / "hdr.mkv"
    ffmpeg("-i", clip, "-an", "-pix_fmt", "yuv420p10le", "-c:v", "libx265", "-x265-params",
           "colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc:log-level=none", hdr)
    for film in (odd, wide):
        refuse_bad_asset(Clip(str(film)))
        # Every third is there; each stands until the next.
        assert number_in(shown(Clip(str(film)), 0.96)) == pytest.approx(24, abs=3)
    refuse_bad_asset(Clip(str(hdr)))
    assert shown(Clip(str(hdr)), 0.5).std() < 6


def test_what_a_clip_cannot_be_is_refused():
    layout = with_backdrop(Layout("x", (Pane(PlainBackdrop()),)), Clip(""))
    assert layout_error(layout)
    assert overlay_error(Overlay(Clip("a.mp4", start_s=float("nan")), 0, 10))
    assert overlay_error(Overlay(Still("a.mp4", 1, ((0.5, 0.4), (0, 1))), 0, 10))
    assert not overlay_error(Overlay(PictureFile("a.png"), 0, 10))


def test_a_hidden_clip_is_neither_seen_nor_heard_nor_missed(clip, tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=40, sound=False,
                      picture=lambda _, y: y * 0 + 100)
    over = tuple(Overlay(Clip(name), 5, 35, entry=Entry.NONE, exit=Entry.NONE, hidden=True,
                         sound=OwnSound.ON) for name in (str(clip), str(tmp_path / "gone.mp4")))
    project = changed_version(first_project(40), "A", overlays=over)
    assert project.overlays_of("A") == project.overlays_on_film("A") == ()
    result = made(film, tmp_path / "out", recipe_of(
        project, "A", find_sheet("vertical-short")).overlays)
    assert result.proof.right
    assert np.abs(brightness(result.file) - 100).max() <= 3
    assert not probe(Path(result.file)).sound  # neither film nor version has any


def test_a_template_takes_its_clip_along_and_a_batch_makes_it(clip, tmp_path, capsys):
    """Kept with a copy of the clip beside it, and made in the processes of the batch."""
    film = write_film(tmp_path / "film.mp4", frames=80, sound=False,
                      picture=lambda _, y: y * 0 + 100)
    over = Overlay(Clip(str(clip)), 0, 1, entry=Entry.NONE, exit=Entry.NONE, sound=OwnSound.ON)
    kept = tmp_path / "series" / "clip.toml"
    kept.parent.mkdir()
    write_template(kept, Template(CANVAS, 25.0, (TimedOverlay(over, 1.0, 2.0),)))
    assert (kept.parent / "clip 1.mp4").read_bytes() == clip.read_bytes()
    sheet = tmp_path / "small.toml"
    write_sheet(with_value(find_sheet("vertical-short"), "canvas", CANVAS), sheet)
    out = tmp_path / "out"
    assert main(["batch", str(film), "--spec", str(sheet), "--out", str(out), "--template",
                 str(kept)]) == 0, capsys.readouterr().err
    (made_file,) = out.glob("*.mp4")
    seen = brightness(made_file)
    assert np.abs(seen[:25] - 100).max() <= 3 and np.abs(seen[50:] - 100).max() <= 3
    assert np.abs((seen[25:50] - FIRST) / STEP - np.arange(25)).max() <= 0.6
    assert loud(made_file, 1.1, 1.9, tmp_path) > 0.01 > loud(made_file, 0.1, 0.8, tmp_path)
