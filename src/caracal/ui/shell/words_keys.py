"""What the keys do with captions, titles and cards."""

from __future__ import annotations

from collections.abc import Callable

from caracal.core.base.translation import tr
from caracal.ui.shell.film_view import FilmView
from caracal.ui.shell.menus import Entry
from caracal.ui.words.view import Words


def words_menu(film: Callable[[], FilmView]) -> list[Entry | None]:
    """The menu of words; it looks up the open ``film`` when something is chosen."""
    def words() -> Words:
        film().show_view("Words")
        return film().words

    def page(name: str) -> Callable[[], None]:
        return lambda: words().show_page(name)

    return [
        Entry(tr("Take captions in…"), "Ctrl+Shift+O", tr("From a file: SRT, WebVTT, ASS, TTML"),
              lambda: words().ask_take_in()),
        Entry(tr("Give captions out…"), "Ctrl+Shift+E", tr("To a file, of the film or a version"),
              lambda: words().ask_give_out()),
        Entry(tr("Write captions from the sound"), "Ctrl+Shift+W", tr("What is said; again: stop"),
              lambda: words().recognition.start_or_stop()),
        None,
        Entry(tr("Next caption"), "Ctrl+Shift+Down", tr("Choose it, and go there"),
              lambda: words().cue_actions.step(1)),
        Entry(tr("Caption before"), "Ctrl+Shift+Up", tr("Choose it, and go there"),
              lambda: words().cue_actions.step(-1)),
        Entry(tr("Add a caption here"), "Ins", tr("At the playhead"),
              lambda: words().cue_actions.add()),
        Entry(tr("Split at the cursor"), "Ctrl+Shift+D", tr("Two captions, before the word there"),
              lambda: words().editor.split()),
        Entry(tr("Join with the next"), "Ctrl+J", tr("Both are one caption"),
              lambda: words().cue_actions.join()),
        Entry(tr("Caption begins here"), "Ctrl+[", tr("It comes at the playhead"),
              lambda: words().cue_actions.start_here()),
        Entry(tr("Caption ends here"), "Ctrl+]", tr("It goes after the playhead's frame"),
              lambda: words().cue_actions.end_here()),
        Entry(tr("Caption a frame earlier"), "Ctrl+,", tr("It keeps its length"),
              lambda: words().cue_actions.nudge(-1)),
        Entry(tr("Caption a frame later"), "Ctrl+.", tr("It keeps its length"),
              lambda: words().cue_actions.nudge(1)),
        Entry(tr("Mend times"), "Ctrl+Shift+J",
              tr("Overlaps and flickering gaps go, captions are seen longer where there is room"),
              lambda: words().cue_actions.mend()),
        None,
        Entry(tr("Look of captions"), "Shift+1", tr("Style, manner and place"), page("Captions")),
        Entry(tr("Titles"), "Shift+2", tr("Headlines, lower thirds and labels"), page("Titles")),
        Entry(tr("Cards"), "Shift+3", tr("Before and after the film"), page("Cards")),
    ]
