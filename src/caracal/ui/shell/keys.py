"""What the keys do while a film is open: edit, views, play."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import QSettings, Qt

from caracal.core.base.errors import CaracalError
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import counted, mark, tr
from caracal.core.project.shots import joined_to_previous, split_at
from caracal.ui.batch.lines import LineAction
from caracal.ui.session.crop_edits import NUDGE_PIXELS, nudge_crop
from caracal.ui.session.layout_clipboard import Cell, copy_layout, paste_layout
from caracal.ui.session.navigation import (
    next_issue,
    play_faster,
    play_or_stop,
    step_shot,
    step_version,
)
from caracal.ui.session.session import Session
from caracal.ui.session.zones_look import keep_look
from caracal.ui.shell.film_view import FilmView
from caracal.ui.shell.menus import Entry
from caracal.ui.shell.motion_dialog import MotionDialog
from caracal.ui.shell.views import VIEWS, view_called
from caracal.ui.shell.words_keys import words_menu
from caracal.ui.shell.zones_dialog import ZONES, ZonesDialog

STEPS = {"Left": -1, "Right": 1, "Shift+Left": -10, "Shift+Right": 10}
NUDGES = {mark("left"): ("Ctrl+Left", -1, 0), mark("right"): ("Ctrl+Right", 1, 0),
          mark("up"): ("Ctrl+Up", 0, -1), mark("down"): ("Ctrl+Down", 0, 1)}


def film_menus(
    film: Callable[[], FilmView], settings: QSettings
) -> dict[str, list[Entry | None]]:
    """The menus that need an open ``film``; they are asked for it only while there is one."""
    keys = _Keys(film, settings)
    return {tr("&Edit"): keys.edit(), tr("&Shot"): keys.shot(), tr("&View"): keys.view(),
            tr("&Words"): words_menu(film), tr("&Play"): keys.play_menu(),
            tr("&Batch"): keys.batch()}


class _Keys:
    """Looks up the open film when a key is pressed."""

    def __init__(self, film: Callable[[], FilmView], settings: QSettings) -> None:
        self._film, self._settings = film, settings

    def _session(self) -> Session:
        return self._film().session

    def edit(self) -> list[Entry | None]:
        return [
            Entry(tr("Undo"), "Ctrl+Z", tr("Undo the last change"),
                  lambda: self._session().document.undo()),
            Entry(tr("Redo"), "Ctrl+Shift+Z | Ctrl+Y", tr("Redo the last change that was undone"),
                  lambda: self._session().document.redo()),
            None,
            Entry(tr("Select all"), "Ctrl+A", tr("Every picture that the Board shows"),
                  self._select_all),
            None,
            Entry(tr("Mark in"), "I", tr("The range starts at the playhead"),
                  lambda: self._set_range("in")),
            Entry(tr("Mark out"), "O", tr("The range ends after the playhead's frame"),
                  lambda: self._set_range("out")),
            Entry(tr("Clear in and out"), "Shift+X", tr("The whole film"),
                  lambda: self._set_range("all")),
            None,
            Entry(tr("Motion limits…"), "Ctrl+M",
                  tr("Speed, pauses and zoom of automatic moves"), self._motion),
        ]

    def shot(self) -> list[Entry | None]:
        entries: list[Entry | None] = [
            Entry(tr("Add a cut at this frame"), "S",
                  tr("A new shot starts at the playhead"),
                  lambda: self._cut("split")),
            Entry(tr("Remove this cut"), "Shift+S",
                  tr("Join this shot with the previous one"), lambda: self._cut("join")),
            Entry(tr("Follow a box"), "B", tr("Draw a box round anything to follow that"),
                  lambda: self._open_view("Aim").aim.draw.toggle()),
            Entry(tr("Punch in or out"), "P",
                  tr("Click where to come closer from this frame on"),
                  lambda: self._open_view("Aim").aim.punch_or_back()),
            Entry(tr("Next layout"), "Y",
                  tr("The crop alone, or the whole picture on a backdrop"),
                  lambda: self._open_view("Aim").aim.layouts.next_kind()),
            Entry(tr("Copy layout"), "Ctrl+Shift+C",
                  tr("How this shot is laid out in this version, for others and other films"),
                  lambda: copy_layout(self._session(), self._cells()[0])),
            Entry(tr("Paste layout"), "Ctrl+Shift+V",
                  tr("Use the copied layout in this shot; on the Board in all selected pictures"),
                  lambda: paste_layout(self._session(), self._cells())),
            Entry(tr("Overlays"), "V",
                  tr("Pictures, clips and shapes over the version"),
                  lambda: self._open_view("Aim").aim.side.show_page("Overlays")),
            Entry(tr("Canvas and master change places"), "Z",
                  tr("The chosen canvas at full size, the master beside it; again: back"),
                  lambda: self._open_view("Aim").aim.swap_places()),
            Entry(tr("Cut between speakers"), "W", tr("Cut to the person who speaks"),
                  lambda: self._open_view("Aim").aim.propose_swaps()),
            None,
            Entry(tr("Next audio track"), "Shift+M",
                  tr("Use the next audio track of the film"), self._next_sound),
            None,
        ]
        for way, (key, dx, dy) in NUDGES.items():
            entries.append(Entry(tr("Nudge the crop {way}", way=tr(way)), key,
                                 tr("By {nudge_pixels} pixels of the master: a keyframe",
                                    nudge_pixels=NUDGE_PIXELS),
                                 lambda dx=dx, dy=dy: self._nudge(dx, dy)))
        return entries

    def view(self) -> list[Entry | None]:
        entries: list[Entry | None] = [
            Entry(tr(view.name), view.key, tr("Show {name}", name=tr(view.name)),
                  lambda name=view.name: self._open_view(name)) for view in VIEWS]
        entries.append(None)
        entries += [Entry(words, key, tip, lambda zone=name: self._zone(zone),
                          on=lambda zone=name: bool(getattr(self._session().zones, zone)))
                    for name, words, key, tip in ZONES]
        return [
            *entries,
            Entry(tr("Colour and strength of zones…"), "Ctrl+L", tr("How zones are drawn"),
                  self._zones_look),
            None,
            Entry(tr("Larger tiles"), "+ | =", tr("On the Board"),
                  lambda: self._open_view("Board").board.grid.step_size(True)),
            Entry(tr("Smaller tiles"), "-", tr("On the Board, down to a contact sheet"),
                  lambda: self._open_view("Board").board.grid.step_size(False)),
            None,
            Entry(tr("Previous version"), "Ctrl+PgUp", tr("Work on the previous version"),
                  lambda: step_version(self._session(), -1)),
            Entry(tr("Next version"), "Ctrl+PgDown", tr("Work on the next version"),
                  lambda: step_version(self._session(), 1)),
            None,
            Entry(tr("Zoom in on the film line"), "Ctrl++ | Ctrl+=",
                  tr("The film line shows a shorter stretch"),
                  lambda: self._film().line.zoom_in_time(1)),
            Entry(tr("Zoom out on the film line"), "Ctrl+-",
                  tr("The film line shows a longer stretch"),
                  lambda: self._film().line.zoom_in_time(-1)),
            Entry(tr("Whole film on the film line"), "Ctrl+0",
                  tr("The film line shows the whole film"),
                  lambda: self._film().line.zoom_in_time(0)),
            None,
            Entry(tr("Spec sheets…"), "Ctrl+T",
                  tr("Show, edit and compare spec sheets"),
                  lambda: self._film().open_sheets()),
        ]

    def batch(self) -> list[Entry | None]:
        def lines(action: LineAction) -> Callable[[], None]:
            return lambda: self._open_view("Batch").batch.lines.do(action)

        return [
            Entry(tr("Make versions"), "Ctrl+Return", tr("Encode every ticked version"),
                  lambda: self._open_view("Batch").batch.start()),
            None,
            *(Entry(words, key, tip, lines(action)) for words, key, tip, action in (
                (tr("Resume"), "Ctrl+Shift+Return", tr("Encode queued items"), LineAction.GO_ON),
                (tr("Pause or resume"), "Ctrl+P", tr("Pause encoding"), LineAction.PAUSE),
                (tr("Stop selected items"), "Ctrl+Backspace", tr("Partial files are deleted"),
                 LineAction.STOP),
                (tr("Retry"), "Ctrl+R",
                 tr("Encode the selected items again that failed or were stopped"),
                 LineAction.RETRY),
                (tr("Move selected item up"), "Alt+Up", tr("Encode it earlier"), LineAction.UP),
                (tr("Move selected item down"), "Alt+Down", tr("Encode it later"), LineAction.DOWN),
                (tr("Clear finished"), "Ctrl+Shift+Backspace",
                 tr("Remove finished items; files stay"), LineAction.CLEAR))),
            None,
            Entry(tr("Write a report"), "Ctrl+Shift+R", tr("Every file against its spec sheet"),
                  lambda: self._open_view("Batch").batch.report()),
            Entry(tr("Make a bundle…"), "Ctrl+B", tr("Files, report and checksums in one folder"),
                  lambda: self._open_view("Batch").batch.ask_bundle()),
            Entry(tr("Cluster…"), "Ctrl+Shift+M", tr("Encode on several machines"),
                  lambda: self._open_view("Batch").batch.ask_cluster()),
        ]

    def _zone(self, name: str) -> None:
        session = self._session()
        if not view_called(self._film().view).has_zones:
            views = ", ".join(tr(view.name) for view in VIEWS if view.has_zones)
            session.said.emit(tr("Zones are seen in {views}. Nothing changed.", views=views))
            return
        session.show_zones(session.zones.toggled(name))
        keep_look(self._settings, session.zones)
        on = tr("on") if getattr(session.zones, name) else tr("off")
        session.said.emit(f"{next(words for zone, words, *_ in ZONES if zone == name)}: {on}.")

    def _zones_look(self) -> None:
        session, settings = self._session(), self._settings
        dialog = ZonesDialog(session, self._film())  # closes with its film
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.finished.connect(lambda _: keep_look(settings, session.zones))
        dialog.show()

    def play_menu(self) -> list[Entry | None]:
        entries: list[Entry | None] = [
            Entry(tr("Play or stop"), "Space", tr("Play from here"),
                  lambda: play_or_stop(self._session())),
            Entry(tr("Play backwards"), "J", tr("Again: twice as fast"),
                  lambda: play_faster(self._session(), -1)),
            Entry(tr("Stop"), "K", tr("Stop playing"), lambda: self._session().play(0)),
            Entry(tr("Play forwards"), "L", tr("Again: twice as fast"),
                  lambda: play_faster(self._session(), 1)),
            Entry(tr("Sound on or off"), "M", tr("What is heard while the film plays"), self._sound,
                  on=lambda: self._session().playing.loud),
            Entry(tr("Sound of the file or the master"), "Shift+H",
                  tr("Hear the chosen version as its file will be, loudness and ranges, or the "
                     "master's own sound"), self._hear),
            None,
        ]
        for key, step in STEPS.items():
            words = (counted(-step, "{count} frame back", "{count} frames back") if step < 0 else
                     counted(step, "{count} frame forward", "{count} frames forward"))
            entries.append(Entry(words, key, words, lambda by=step: self._step(by)))
        return [*entries,
                Entry(tr("Previous shot"), "Up", tr("Back one shot"),
                      lambda: step_shot(self._session(), -1)),
                Entry(tr("Next shot"), "Down", tr("To the next shot"),
                      lambda: step_shot(self._session(), 1)),
                Entry(tr("Next issue"), "F", tr("To the next shot with an issue"),
                      lambda: next_issue(self._session()))]

    def _sound(self) -> None:
        session, settings = self._session(), self._settings
        session.playing.be_loud(not session.playing.loud)
        settings.setValue("sound", session.playing.loud)
        session.said.emit(tr("Sound on.") if session.playing.loud else tr("Sound off."))

    def _hear(self) -> None:
        session = self._session()
        session.playing.hear_file(not session.playing.as_made)
        self._settings.setValue("hear file", session.playing.as_made)
        session.said.emit(tr("You hear what the file of {letter} will have.", letter=session.letter)
                          if session.playing.as_made else tr("You hear the master's own sound."))

    def _next_sound(self) -> None:
        session = self._session()
        count = len(session.found.master.sound)
        if count < 2:
            session.said.emit(tr("The film has no other audio track."))
            return
        number = (session.project.sound + 1) % count
        stream = session.found.master.sound[number]
        session.edit(msgspec.structs.replace(session.project, sound=number),
                     tr("Audio track {number} of {count}: {codec}, {layout}", number=number + 1,
                        count=count, codec=stream.codec, layout=stream.layout))

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
            self._session().said.emit(tr("Crops can be nudged in Aim (2). Nothing changed."))
            return
        nudge_crop(self._session(), dx, dy)

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
        session.edit(project, tr("Add cut") if way == "split" else tr("Remove cut"))

    def _step(self, frames: int) -> None:
        session = self._session()
        session.go(session.frame + frames)

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
        session.edit(project, tr("Range of {count} frames", count=end - start))
