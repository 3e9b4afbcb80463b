"""Words that were replaced by usual ones do not come back; sentences on screen are short."""

import re
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
GONE = re.compile(
    r"\b(look(ed|ing|s)? at|take in|give out|take away|taken away|anew|nobody foresaw|half-made|"
    r"back to automatic|mend|to all versions|begins here|ends here|from here|to here|"
    r"touched|bears|whoever|is told|was told|only look|gather|swap speakers|lay it out|"
    r"follow a box round|as it was)\b", re.IGNORECASE)
ALLOWED = ("Apply to all versions", "Play from here")  # whole phrases that are usual
MOST_WORDS = 20  # of a sentence in the window


@pytest.fixture(scope="module")
def messages():
    """Every text of the program with the files that use it."""
    sys.path.insert(0, str(ROOT / "scripts"))
    import catalogue

    found = []
    for message in catalogue.source_catalogue():
        texts = [message.id] if isinstance(message.id, str) else list(message.id)
        found += [(text, [str(place) for place, _ in message.locations]) for text in texts if text]
    assert len(found) > 1500  # the catalogue was read
    return found


def test_words_that_are_gone_do_not_come_back(messages):
    back = []
    for text, _ in messages:
        rest = text
        for phrase in ALLOWED:
            rest = rest.replace(phrase, "")
        back += [text] if GONE.search(rest) else []
    assert back == []


def test_sentences_of_the_window_are_read_in_one_breath(messages):
    long = [sentence for text, places in messages if any("/ui/" in place for place in places)
            for sentence in re.split(r"(?<=[.!?:;])\s", text) if len(sentence.split()) > MOST_WORDS]
    assert long == []
