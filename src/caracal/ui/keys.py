"""What the keys do while a film is open: edit, views, play."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import QSettings, Qt

from caracal.core.errors import CaracalError
from caracal.core.plurals import counted
from caracal.core.project.shots import joined_to_previous, split_at
from caracal.core.time import FrameRange
from caracal.ui.batch.lines import LineAction
from caracal.ui.film_view import FilmView
from caracal.ui.layout_clipboard import Cell, copy_layout, paste_layout
from caracal.ui.menus import Entry
from caracal.ui.motion import MotionDialog
from caracal.ui.session import Session
from caracal.ui.views import VIEWS
from caracal.ui.words_keys import words_menu
from caracal.ui.zones import keep_look
from caracal.ui.zones_dialog import ZONES, ZonesDialog

STEPS = {"Left": -1, "Right": 1, "Shift+Left": -10, "Shift+Right": 10}
NUDGES = {"left": ("Ctrl+Left", -1, 0), "right": ("Ctrl+Right", 1, 0),
          "up": ("Ctrl+Up", 0, -1), "down": ("Ctrl+Down", 0, 1)}
NUDGE_PIXELS = 8


def film_menus(
    film: Callable[[], FilmView], settings: QSettings
) -> dict[str, list[Entry | None]]:
    """The menus that need an open ``film``; they are asked for it only while there is one."""
    keys = _Keys(film, settings)
    return {"&Edit": keys.edit(), "&Shot": keys.shot(), "&View": keys.view(),
            "&Words": words_menu(film), "&Play": keys.play_menu(), "&Batch": keys.batch()}


class _Keys:
    """Looks up the open film when a key is pressed."""

    def __init__(self, film: Callable[[], FilmView], settings: QSettings) -> None:
        self._film, self._settings = film, settings

    def _session(self) -> Session:
        return self._film().session

    def edit(self) -> list[Entry | None]:
        return [
            Entry("Undo", "Ctrl+Z", "Take back an edit", lambda: self._session().undo()),
            Entry("Redo", "Ctrl+Shift+Z | Ctrl+Y", "Do it again", lambda: self._session().redo()),
            None,
            Entry("Select all cells", "Ctrl+A", "Every cell the Board shows", self._select_all),
            None,
            Entry("Range begins here", "I", "Set the in", lambda: self._set_range("in")),
            Entry("Range ends here", "O", "Set the out", lambda: self._set_range("out")),
            Entry("Whole film", "Shift+X", "Forget in and out", lambda: self._set_range("all")),
            None,
            Entry("How windows move…", "Ctrl+M", "Speed, rests and closeness of automatic moves",
                  self._motion),
        ]

    def shot(self) -> list[Entry | None]:
        entries: list[Entry | None] = [
            Entry("Split shot here", "S", "A cut was missed: a new shot begins at this frame",
                  lambda: self._cut("split")),
            Entry("Join with the shot before", "Shift+S", "This cut is none: both are one shot",
                  lambda: self._cut("join")),
            Entry("Follow a box", "B", "Draw a box round anything to follow that",
                  lambda: self._open_view("Aim").aim.draw.toggle()),
            Entry("Punch in or come back", "P", "Click where to come closer from this frame on",
                  lambda: self._open_view("Aim").aim.punch_or_back()),
            Entry("Next layout", "Y", "The window alone, or the whole picture on a backdrop",
                  lambda: self._open_view("Aim").aim.layouts.next_kind()),
            Entry("Copy layout", "Ctrl+Shift+C", "How this shot is laid out in this version, for "
                  "others and other films",
                  lambda: copy_layout(self._session(), self._cells()[0])),
            Entry("Paste layout", "Ctrl+Shift+V", "Lay this shot out as the copied one; on the "
                  "Board all chosen cells",
                  lambda: paste_layout(self._session(), self._cells())),
            Entry("Overlays, fades, speed…", "V", "What lies over the version, how it begins and "
                  "ends, and how fast a stretch is shown",
                  lambda: self._open_view("Aim").aim.overlays.showMenu()),
            Entry("Swap speakers", "W", "Let the window jump to whoever speaks",
                  lambda: self._open_view("Aim").aim.propose_swaps()),
            None,
            Entry("Next sound of the film", "Shift+M", "Of several sounds, use the next one",
                  self._next_sound),
            None,
        ]
        for way, (key, dx, dy) in NUDGES.items():
            entries.append(Entry(
                f"Nudge the window {way}", key, f"By {NUDGE_PIXELS} pixels of the master: a "
                "keyframe", lambda dx=dx, dy=dy: self._nudge(dx, dy)))
        return entries

    def view(self) -> list[Entry | None]:
        entries: list[Entry | None] = [
            Entry(view.name, view.key, f"Show {view.name}",
                  lambda name=view.name: self._open_view(name)) for view in VIEWS]
        entries.append(None)
        entries += [Entry(words, key, tip, lambda zone=name: self._zone(zone),
                          on=lambda zone=name: bool(getattr(self._session().zones, zone)))
                    for name, words, key, tip in ZONES]
        return [
            *entries,
            Entry("Colour and strength of zones…", "Ctrl+L", "How zones are drawn",
                  self._zones_look),
            None,
            Entry("Version before", "Ctrl+PgUp", "Work on the version before",
                  lambda: self._step_version(-1)),
            Entry("Next version", "Ctrl+PgDown", "Work on the next version",
                  lambda: self._step_version(1)),
            None,
            Entry("Closer in time", "Ctrl++ | Ctrl+=", "The film line shows a shorter stretch",
                  lambda: self._film().line.zoom_in_time(1)),
            Entry("Wider in time", "Ctrl+-", "The film line shows a longer stretch",
                  lambda: self._film().line.zoom_in_time(-1)),
            Entry("All of the film in time", "Ctrl+0", "The film line shows the whole film",
                  lambda: self._film().line.zoom_in_time(0)),
            None,
            Entry("Spec sheets…", "Ctrl+T", "What destinations ask for: look, change, compare",
                  lambda: self._film().open_sheets()),
        ]

    def batch(self) -> list[Entry | None]:
        def lines(action: LineAction) -> Callable[[], None]:
            return lambda: self._open_view("Batch").batch.lines.do(action)

        return [
            Entry("Make versions", "Ctrl+Return", "Put every ticked version onto the list",
                  lambda: self._open_view("Batch").batch.start()),
            None,
            Entry("Go on", "Ctrl+Shift+Return", "Work off what waits", lines(LineAction.GO_ON)),
            Entry("Pause or resume", "Ctrl+P", "Let the encoders wait", lines(LineAction.PAUSE)),
            Entry("Stop chosen lines", "Ctrl+Backspace", "Nothing half-made is kept",
                  lines(LineAction.STOP)),
            Entry("Try again", "Ctrl+R", "The chosen lines that failed or were stopped",
                  lines(LineAction.RETRY)),
            Entry("Move chosen line up", "Alt+Up", "It is made earlier", lines(LineAction.UP)),
            Entry("Move chosen line down", "Alt+Down", "It is made later", lines(LineAction.DOWN)),
            Entry("Clear done", "Ctrl+Shift+Backspace", "Files stay",
                  lines(LineAction.CLEAR)),
            None,
            Entry("Write a report", "Ctrl+Shift+R", "Every file against its spec sheet",
                  lambda: self._open_view("Batch").batch.report()),
            Entry("Make a bundle…", "Ctrl+B", "Files, report and checksums in one folder",
                  lambda: self._open_view("Batch").batch.ask_bundle()),
            Entry("Cluster…", "Ctrl+Shift+M", "Let several machines make the versions",
                  lambda: self._open_view("Batch").batch.ask_cluster()),
        ]

    def _zone(self, name: str) -> None:
        session = self._session()
        if self._film().view == "Batch":
            session.said.emit("Zones are seen on the Board, in Aim and in Words: nothing changed.")
            return
        session.show_zones(session.zones.toggled(name))
        keep_look(self._settings, session.zones)
        on = "on" if getattr(session.zones, name) else "off"
        session.said.emit(f"{next(words for zone, words, *_ in ZONES if zone == name)}: {on}.")

    def _zones_look(self) -> None:
        session, settings = self._session(), self._settings
        dialog = ZonesDialog(session, self._film())  # closes with its film
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.finished.connect(lambda _: keep_look(settings, session.zones))
        dialog.show()

    def play_menu(self) -> list[Entry | None]:
        entries: list[Entry | None] = [
            Entry("Play or stop", "Space", "Play from here", lambda: self._play(0)),
            Entry("Play backwards", "J", "Again: twice as fast", lambda: self._play(-1)),
            Entry("Stop", "K", "Stop playing", lambda: self._session().play(0)),
            Entry("Play forwards", "L", "Again: twice as fast", lambda: self._play(1)),
            Entry("Sound on or off", "M", "What is heard while the film plays", self._sound,
                  on=lambda: self._session().playing.loud),
            Entry("Sound of the file or the master", "Shift+H", "Hear the chosen version as its "
                  "file will be, loudness and ranges, or the master's own sound", self._hear),
            None,
        ]
        for key, step in STEPS.items():
            words = f"{counted(abs(step), 'frame')} "
            words += "back" if step < 0 else "forward"
            entries.append(Entry(words, key, words, lambda by=step: self._step(by)))
        return [*entries,
                Entry("Shot before", "Up", "Back one shot", lambda: self._step_shot(-1)),
                Entry("Next shot", "Down", "To the next shot", lambda: self._step_shot(1)),
                Entry("Next flag", "F", "To the next shot with a flag", self._next_flag)]

    def _sound(self) -> None:
        session, settings = self._session(), self._settings
        session.playing.be_loud(not session.playing.loud)
        settings.setValue("sound", session.playing.loud)
        session.said.emit("Sound on." if session.playing.loud else "Sound off.")

    def _hear(self) -> None:
        session = self._session()
        session.playing.hear_file(not session.playing.as_made)
        self._settings.setValue("hear file", session.playing.as_made)
        session.said.emit(f"You hear what the file of {session.letter} will have."
                          if session.playing.as_made else "You hear the master's own sound.")

    def _next_sound(self) -> None:
        session = self._session()
        count = len(session.found.master.sound)
        if count < 2:
            session.said.emit("The film has no other sound.")
            return
        number = (session.project.sound + 1) % count
        stream = session.found.master.sound[number]
        session.edit(msgspec.structs.replace(session.project, sound=number),
                     f"Sound {number + 1} of {count} is used: {stream.codec}, {stream.layout}.")

    def _motion(self) -> None:
        dialog = MotionDialog(self._session(), self._film())  # closes with its film
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.show()

    def _open_view(self, name: str) -> FilmView:
        film = self._film()
        film.show_view(name)
        return film

    def _cells(self) -> tuple[Cell, ...]:
        """The cells chosen on the Board; elsewhere, or where none is, the one worked on."""
        session = self._session()
        return self._film().chosen_cells or ((session.letter, session.shot),)

    def _select_all(self) -> None:
        self._open_view("Board").board.grid.select_all()

    def _nudge(self, dx: int, dy: int) -> None:
        if self._film().view != "Aim":
            self._session().said.emit("A nudge is seen in Aim (2): nothing changed.")
            return
        self._film().aim.numbers.nudge(dx * NUDGE_PIXELS, dy * NUDGE_PIXELS)

    def _cut(self, way: str) -> None:
        session = self._session()
        try:
            if way == "split":
                project = split_at(session.found, session.project, session.frame)
            else:
                project = joined_to_previous(session.found, session.project, session.shot)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        session.edit(project, "Shot split." if way == "split" else "Shots joined.")

    def _step(self, frames: int) -> None:
        session = self._session()
        session.go(session.frame + frames)

    def _step_version(self, way: int) -> None:
        session = self._session()
        letters = [version.letter for version in session.project.versions]
        at = (letters.index(session.letter) + way) % len(letters)
        session.choose_version(letters[at])
        session.said.emit(f"Version {letters[at]}.")

    def _step_shot(self, way: int) -> None:
        session = self._session()
        shots = session.analysis.shots
        session.go(shots[min(max(0, session.shot + way), len(shots) - 1)].poster_frame)

    def _next_flag(self) -> None:
        """To the next cell that is flagged: the versions of a shot first, then later shots."""
        session = self._session()
        letters = [version.letter for version in session.project.versions]
        cells = [(shot, letter) for shot in range(len(session.analysis.shots))
                 for letter in letters]
        here = cells.index((session.shot, session.letter))
        for shot, letter in cells[here + 1 :] + cells[: here + 1]:
            flags = session.flags(letter, shot)
            if flags:
                session.choose_version(letter)
                session.go((flags[0].start + flags[0].end) // 2)
                session.said.emit(f"Shot {shot + 1} in {letter}: {flags[0].sentence}")
                return
        session.said.emit("No flags are left.")

    def _play(self, way: int) -> None:
        session = self._session()
        if way == 0:
            session.play(0 if session.speed else 1)
        elif session.speed * way > 0:
            session.play(max(-8, min(8, session.speed * 2)))
        else:
            session.play(way)

    def _set_range(self, which: str) -> None:
        session = self._session()
        span, frames = session.project.span, session.analysis.master.frames
        start, end = span.start, span.end_exclusive
        if which == "in":
            start = session.frame
            end = end if end > start else frames
        elif which == "out":
            end = session.frame + 1
            start = start if start < end else 0
        else:
            start, end = 0, frames
        project = msgspec.structs.replace(session.project, span=FrameRange(start, end))
        session.edit(project, f"Range of {end - start} frames.")
