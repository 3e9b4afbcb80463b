"""What is said, written: against a published transcription, and the demo's own script."""

import difflib
import re
import shutil
import wave
from itertools import pairwise
from pathlib import Path

import jiwer
import numpy as np
import pocketsphinx
import pytest

from caracal.core.base.errors import InputError, InstallError
from caracal.core.base.work import Cancelled, CancelToken, no_progress
from caracal.core.media.probe import probe
from caracal.core.speech import recognition
from caracal.core.speech.alignment import aligned
from caracal.core.speech.recognition import RecognitionOrder, blocks, quietest, recognised
from caracal.core.speech.segmenting import MOST_CHARACTERS, MOST_S, cues_of_words
from caracal.core.text.cues import Word
from conftest import DEMO, ffmpeg, write_film
from demo.script import LINES

READ = Path("/usr/share/pocketsphinx/test/data/librivox")  # Debian: pocketsphinx-testdata
NAMES = ("kiln", "quay", "Tobias")


def _plain(text):
    return " ".join(re.sub(r"[^a-z' ]", " ", text.lower().replace("mr.", "mister")).split())


def _film_of(sound, path):
    ffmpeg("-f", "lavfi", "-i", "color=gray:s=64x64:r=10", "-i", sound, "-shortest", "-c:v",
           "libx264", "-c:a", "aac", path)
    return path


def test_read_speech_is_written_rightly_and_in_time(tmp_path):
    """Librivox readings with their transcription (Debian's pocketsphinx-testdata), joined: at most
    5 % of the words are wrong, by jiwer's count."""
    texts = {}
    for row in (READ / "transcription").read_text().splitlines():
        found = re.fullmatch(r"<s> (.*) </s> \((.*)\)", row)
        texts[found[2]] = found[1].replace("a more a amiable", "a more amiable")  # a slip of theirs
    names = sorted(texts)
    listed = tmp_path / "list.txt"
    listed.write_text("".join(f"file '{READ / name}.wav'\n" for name in names))
    ffmpeg("-f", "concat", "-safe", "0", "-i", listed, tmp_path / "all.wav")
    film = _film_of(tmp_path / "all.wav", tmp_path / "read.mp4")
    heard = []
    found = recognised(RecognitionOrder(probe(film), "en"), heard.append, CancelToken())
    wrong = jiwer.wer(_plain(" ".join(texts[name] for name in names)),
                      _plain(" ".join(cue.text for cue in found.cues)))
    assert wrong <= 0.05, found.cues
    assert found.language == "en" and heard
    assert all(a.start_s <= b.start_s for a, b in pairwise(found.words))
    loud = _loud(tmp_path / "all.wav")
    for word in found.words:  # a word lies where something sounds
        assert loud[int(word.start_s * 20) : int(word.end_s * 20) + 2].any(), word
    off = _starts_off(names, texts, found.words)
    assert len(off) > 55 and np.median(off) <= 0.12, (len(off), np.median(off), off)


def _starts_off(names, texts, words):
    """How far the starts of words lie from those of another aligner: PocketSphinx, with its own
    acoustic model of US English, is given the text (forced alignment)."""
    meant, before_s = [], 0.0
    for name in names:
        with wave.open(str(READ / f"{name}.wav")) as file:
            count = file.getnframes()
            sound, seconds = file.readframes(count), count / file.getframerate()
        decoder = pocketsphinx.Decoder(lm=None, loglevel="FATAL")
        decoder.set_align_text(_plain(texts[name]))
        decoder.start_utt()
        decoder.process_raw(sound, full_utt=True)
        decoder.end_utt()
        meant += [(re.sub(r"\(\d+\)", "", part.word), before_s + part.start_frame / 100)
                  for part in decoder.seg() if part.word[0] not in "<["]
        before_s += seconds
    ours = [(_plain(word.text), word.start_s) for word in words]
    same = difflib.SequenceMatcher(
        None, [word for word, _ in meant], [word for word, _ in ours], autojunk=False)
    return [abs(meant[a + i][1] - ours[b + i][1])
            for a, b, size in same.get_matching_blocks() for i in range(size)]


def _loud(path):
    with wave.open(str(path)) as file:
        rate = file.getframerate()
        samples = np.frombuffer(file.readframes(file.getnframes()), np.int16).astype(float)
    step = rate // 20
    return np.array([np.abs(samples[i : i + step]).max() > 300
                     for i in range(0, len(samples), step)])


def test_the_demo_is_understood_with_the_names_in_it(tmp_path):
    """At most 10 % of the words of its first half are wrong; its voices are synthetic, its script
    is exact."""
    half, lines = tmp_path / "half.mp4", [line for line in LINES if line.start_s < 24]
    ffmpeg("-t", "24", "-i", DEMO, "-c", "copy", half)
    found = recognised(RecognitionOrder(probe(half), "", NAMES), no_progress, CancelToken())
    said = " ".join(line.text for line in lines)
    assert jiwer.wer(_plain(said), _plain(" ".join(cue.text for cue in found.cues))) <= 0.10
    assert found.language == "en"
    for line in lines:  # each begins when its mouth does
        nearest = min(found.words, key=lambda word: abs(word.start_s - line.start_s))
        assert abs(nearest.start_s - line.start_s) < 0.5, line
    assert all(cue.words for cue in found.cues)


def test_a_text_that_is_known_gets_its_times_from_the_sound():
    heard = tuple(Word(text, at, at + 0.4) for at, text in enumerate(
        ["we", "fired", "the", "big", "kill", "once"]))
    found = aligned("We fire the big kiln once,", heard)
    assert [word.text for word in found] == ["We", "fire", "the", "big", "kiln", "once,"]
    assert [word.start_s for word in found] == pytest.approx([0, 0.4, 2, 3, 3.4, 5], abs=0.01)
    assert found[4].sure == 0 and found[0].sure == 1  # a person looks at what was not heard
    assert aligned("", heard) == () == aligned("text", ())


def test_captions_end_with_sentences_and_pauses_and_can_be_read():
    words, at = [], 0.0
    for text in ("One two three. Word " + "word " * 59 + "end, then a pause").split():
        words.append(Word(text, at, at + 0.3))
        at += 0.32 + (2.0 if text == "end," else 0)
    found = cues_of_words(words)
    assert found[0].text == "One two three."
    assert all(len(cue.text) <= MOST_CHARACTERS and cue.seconds <= MOST_S + 0.5 for cue in found)
    assert found[-1].text == "then a pause" and found[-2].text.endswith("end,")
    assert all(a.end_s <= b.start_s for a, b in pairwise(found))
    assert [word for cue in found for word in cue.words] == words


@pytest.mark.parametrize(("language", "text", "wanted"), [
    ("en", "I met Mr. Smith in town. He was late.", ["I met Mr. Smith in town.", "He was late."]),
    ("en", "It was 5 p.m. in the U.S. and I left. So did I. We met.",
     ["It was 5 p.m. in the U.S. and I left.", "So did I.", "We met."]),
    ("de", "Das war am 3. Mai bei Dr. Braun. Er lachte sehr laut.",
     ["Das war am 3. Mai bei Dr. Braun.", "Er lachte sehr laut."]),
    ("fr", "Voici M. Leroy et Mme. Petit. Ils sont en avance.",
     ["Voici M. Leroy et Mme. Petit.", "Ils sont en avance."]),
    ("", "Yes. Ask J. R. Green about it. Now.", ["Yes. Ask J. R. Green about it.", "Now."]),
])
def test_a_stop_after_an_abbreviation_ends_no_caption(language, text, wanted):
    """Nor does a sentence of less than 0.8 s stand alone."""
    words = [Word(word, at * 0.3, at * 0.3 + 0.25) for at, word in enumerate(text.split())]
    found = cues_of_words(words, language)
    assert [cue.text for cue in found] == wanted
    assert all(cue.seconds >= 0.799 for cue in found)


def test_blocks_end_where_it_is_quiet_and_lose_nothing(tmp_path, monkeypatch):
    rng = np.random.default_rng(5)
    samples = rng.normal(0, 0.2, 16_000 * 40).astype(np.float32)
    samples[16_000 * 31 : 16_000 * 32] = 0
    assert 31 * 16_000 <= quietest(samples) <= 32 * 16_000
    monkeypatch.setattr(recognition, "BLOCK_S", 1.0)
    monkeypatch.setattr(recognition, "SEARCH_S", 0.5)
    film = write_film(tmp_path / "film.mp4", frames=100)
    parts = list(blocks(probe(film)))
    assert len(parts) > 3
    for (start, part), (after, _) in pairwise(parts):
        assert after == pytest.approx(start + len(part) / 16_000)
    assert sum(len(part) for _, part in parts) == 64_000


def test_films_without_words_and_models_without_data_are_told(tmp_path, monkeypatch):
    silent_film = write_film(tmp_path / "silent.mp4", sound=False)
    with pytest.raises(InputError, match="no sound"):
        recognised(RecognitionOrder(probe(silent_film)), no_progress, CancelToken())
    noise = write_film(tmp_path / "noise.mp4", frames=50)
    with pytest.raises(InputError, match="No speech was found"):
        recognised(RecognitionOrder(probe(noise), "en"), no_progress, CancelToken())
    token = CancelToken()
    token.cancel()
    with pytest.raises(Cancelled):
        recognised(RecognitionOrder(probe(noise)), no_progress, token)
    folder = tmp_path / "models" / "speech"
    shutil.copytree(recognition.shipped("models", "speech"), folder)
    monkeypatch.setattr(recognition, "shipped", lambda *parts: tmp_path.joinpath(*parts))
    (folder / "model.bin").write_bytes(b"version https://git-lfs.github.com/spec/v1\n")
    with pytest.raises(InstallError, match="pointer"):
        recognition._model()
    (folder / "model.bin").write_bytes(b"x" * 5000)
    with pytest.raises(InstallError, match="damaged"):
        recognition._model()
    (folder / "model.bin").unlink()
    with pytest.raises(InstallError, match="missing"):
        recognition._model()
