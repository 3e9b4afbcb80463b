"""Menus: a letter for each entry, ticks on what is on, second keys, and what helps."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QMenu, QTextBrowser

from caracal import __version__
from caracal.ui.shell.help_menu import keys_page
from caracal.ui.shell.menus import Entry, keys_of, with_mnemonics


def test_every_entry_has_a_letter_of_its_own_while_there_are_any():
    assert with_mnemonics(["Save", "Save as", "Split", "Q & A"]) == [
        "&Save", "Save &as", "S&plit", "Q && A"]
    assert with_mnemonics(["a", "a"]) == ["&a", "a"]


def test_the_window_s_menus_have_no_letter_twice(window):
    menus = [action.menu() for action in window.menuBar().actions()]
    assert len(menus) == 8
    titles = [menu.title() for menu in menus]
    assert len({title[title.index("&") + 1].lower() for title in titles}) == len(titles)
    for menu in menus:
        letters = [text[text.replace("&&", "__").index("&") + 1].lower()
                   for action in menu.actions() if not action.isSeparator()
                   and "&" in (text := action.text()).replace("&&", "__")]
        assert len(letters) == len(set(letters)) and letters, menu.title()


def test_ctrl_y_does_it_again_as_well(window, qtbot):
    session = window.film.session
    session.edit(session.project, "nothing")
    from caracal.core.framing.motion import Manner
    from caracal.core.project.edits import with_manner

    session.edit(with_manner(session.project, "A", 2, Manner.GLIDE), "glide")
    window.activateWindow()
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert session.project.choice("A", 2).manner is Manner.AUTO
    qtbot.keyClick(window, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
    assert session.project.choice("A", 2).manner is Manner.GLIDE


def test_ticks_tell_what_is_on(window, qtbot):
    window.film.show_view("Aim")
    menu = next(action.menu() for action in window.menuBar().actions()
                if action.text() == "&View")
    covers = window.actions_by_name["Covers"]
    assert covers.isCheckable()
    for _ in range(2):
        menu.aboutToShow.emit()
        assert covers.isChecked() == window.film.session.zones.covers
        covers.trigger()
    sound = window.actions_by_name["Sound on or off"]
    play = next(action.menu() for action in window.menuBar().actions()
                if action.text() == "&Play")
    play.aboutToShow.emit()
    assert sound.isChecked() == window.film.session.playing.loud


@pytest.mark.parametrize(("name", "words"), [
    ("Keys…", ("Ctrl+Shift+V", "Paste layout", "Ctrl+Y")),
    ("About Caracal…", (__version__, "Apache License", "SIL Open Font License"))])
def test_help_tells_keys_and_licences(window, qtbot, name, words):
    window.actions_by_name[name].trigger()
    (dialog,) = [child for child in window.findChildren(QDialog) if child.isVisible()]
    text = dialog.findChild(QTextBrowser).toPlainText().replace("OPEN FONT LICENSE",
                                                                "Open Font License")
    assert all(word in text for word in words), text[:400]
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert not dialog.isVisible()


def test_the_page_of_keys_has_every_key_of_every_menu(window):
    entries = [Entry("One", "F2 | Ctrl+2", "", lambda: None), None,
               Entry("No key", "", "", lambda: None)]
    page = keys_page({"&Some": entries})
    assert "F2 or Ctrl+2" in page and "One" in page and "No key" not in page
    assert [key.toString() for key in keys_of(entries[0])] == ["F2", "Ctrl+2"]
    assert isinstance(window.menuBar().actions()[0].menu(), QMenu)
