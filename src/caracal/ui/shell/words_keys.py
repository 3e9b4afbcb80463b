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
        Entry(tr("Import captions…"), "Ctrl+Shift+O", tr("From a file: SRT, WebVTT, ASS, TTML"),
              lambda: words().ask_take_in()),
        Entry(tr("Export captions…"), "Ctrl+Shift+E", tr("To a file, of the film or a version"),
              lambda: words().ask_give_out()),
        Entry(tr("Transcribe speech"), "Ctrl+Shift+W",
              tr("Write captions from the speech; again: stop"),
              lambda: words().recognition.start_or_stop()),
        None,
        Entry(tr("Next caption"), "Ctrl+Shift+Down", tr("Select it and go there"),
              lambda: words().cue_actions.step(1)),
        Entry(tr("Previous caption"), "Ctrl+Shift+Up", tr("Select it and go there"),
              lambda: words().cue_actions.step(-1)),
        Entry(tr("Add a caption"), "Ins", tr("Add it at the playhead"),
              lambda: words().cue_actions.add()),
        Entry(tr("Split caption"), "Ctrl+Shift+D", tr("Split before the word at the cursor"),
              lambda: words().editor.split()),
        Entry(tr("Join captions"), "Ctrl+J", tr("Join with the next caption"),
              lambda: words().cue_actions.join()),
        Entry(tr("Set start of caption"), "Ctrl+[", tr("The caption starts at the playhead"),
              lambda: words().cue_actions.start_here()),
        Entry(tr("Set end of caption"), "Ctrl+]", tr("The caption ends after the playhead's frame"),
              lambda: words().cue_actions.end_here()),
        Entry(tr("Caption a frame earlier"), "Ctrl+,", tr("Its duration stays the same"),
              lambda: words().cue_actions.nudge(-1)),
        Entry(tr("Caption a frame later"), "Ctrl+.", tr("Its duration stays the same"),
              lambda: words().cue_actions.nudge(1)),
        Entry(tr("Fix timing"), "Ctrl+Shift+J",
              tr("Remove overlaps and short gaps, and show captions longer where there is room"),
              lambda: words().cue_actions.mend()),
        None,
        Entry(tr("Caption style"), "Shift+1", tr("Style, display and position"), page("Captions")),
        Entry(tr("Titles"), "Shift+2", tr("Headlines, lower thirds and labels"), page("Titles")),
        Entry(tr("Cards"), "Shift+3", tr("Before and after the film"), page("Cards")),
    ]
