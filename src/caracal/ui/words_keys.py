"""What the keys do with captions, titles and cards."""

from __future__ import annotations

from collections.abc import Callable

from caracal.ui.film_view import FilmView
from caracal.ui.menus import Entry
from caracal.ui.words.view import Words


def words_menu(film: Callable[[], FilmView]) -> list[Entry | None]:
    """The menu of words; it looks up the open ``film`` when something is chosen."""
    def words() -> Words:
        film().show_view("Words")
        return film().words

    def page(name: str) -> Callable[[], None]:
        return lambda: words().show_page(name)

    return [
        Entry("Take captions in…", "Ctrl+Shift+O", "From a file: SRT, WebVTT, ASS, TTML",
              lambda: words().ask_take_in()),
        Entry("Give captions out…", "Ctrl+Shift+E", "To a file, of the film or a version",
              lambda: words().ask_give_out()),
        Entry("Write captions from the sound", "Ctrl+Shift+W", "What is said; again: stop",
              lambda: words().recognition.start_or_stop()),
        None,
        Entry("Next caption", "Ctrl+Shift+Down", "Choose it, and go there",
              lambda: words().cue_actions.step(1)),
        Entry("Caption before", "Ctrl+Shift+Up", "Choose it, and go there",
              lambda: words().cue_actions.step(-1)),
        Entry("Add a caption here", "Ins", "At the playhead",
              lambda: words().cue_actions.add()),
        Entry("Split at the cursor", "Ctrl+Shift+D", "Two captions, before the word there",
              lambda: words().editor.split()),
        Entry("Join with the next", "Ctrl+J", "Both are one caption",
              lambda: words().cue_actions.join()),
        Entry("Caption begins here", "Ctrl+[", "It comes at the playhead",
              lambda: words().cue_actions.start_here()),
        Entry("Caption ends here", "Ctrl+]", "It goes after the playhead's frame",
              lambda: words().cue_actions.end_here()),
        Entry("Caption a frame earlier", "Ctrl+,", "It keeps its length",
              lambda: words().cue_actions.nudge(-1)),
        Entry("Caption a frame later", "Ctrl+.", "It keeps its length",
              lambda: words().cue_actions.nudge(1)),
        Entry("Mend times", "Ctrl+Shift+J", "Overlaps and flickering gaps go, captions are seen "
              "longer where there is room", lambda: words().cue_actions.mend()),
        None,
        Entry("Look of captions", "Shift+1", "Style, manner and place", page("Captions")),
        Entry("Titles", "Shift+2", "Headlines, lower thirds and labels", page("Titles")),
        Entry("Cards", "Shift+3", "Before and after the film", page("Cards")),
    ]
