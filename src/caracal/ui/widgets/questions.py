"""Questions that stop the window until a person has answered."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from caracal.core.base.translation import tr
from caracal.core.project.storage import SUFFIX
from caracal.ui.services.settings import kept_text

MOVIES = tr("Movies (*.mp4 *.mov *.mkv *.mxf *.webm *.avi *.m4v *.ts)")


def which_film(parent: QWidget, settings: QSettings) -> Path | None:
    """Ask for a film or a project, beginning in the folder of the last one."""
    folder = kept_text(settings, "folder", str(Path.home()))
    chosen, _ = QFileDialog.getOpenFileName(parent, tr("Open a film or a project"), folder,
                                            tr("{movies};;Caracal projects (*{suffix});;All files "
                                               "(*)", movies=MOVIES, suffix=SUFFIX))
    if not chosen:
        return None
    settings.setValue("folder", str(Path(chosen).parent))
    return Path(chosen)


def may_take_over(parent: QWidget) -> bool:
    """Ask whether this window is to keep the work on a film that another has open."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, tr("This film is open"),
                      tr("Another window of Caracal has this film open."), parent=parent)
    box.setInformativeText(tr("Open read-only: changes made here go into a separate copy.\nEdit "
                              "here: the "
                              "other window becomes read-only."))
    look = box.addButton(tr("Open read-only"), QMessageBox.ButtonRole.RejectRole)
    take = box.addButton(tr("Edit here"), QMessageBox.ButtonRole.AcceptRole)
    box.setDefaultButton(look)
    return _clicked(box) is take


def about_changes(title: str, parent: QWidget) -> str:
    """Ask what becomes of the changes of a sheet called ``title``: "save", "discard" or "stay"."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, tr("Changes were not saved"),
                      tr("“{title}” was changed and not saved.", title=title), parent=parent)
    return _answer(box, {"save": tr("Save"), "discard": tr("Discard"),
                         "stay": tr("Keep editing")})


def what_of_batch(parent: QWidget) -> str:
    """Ask what becomes of a batch that runs: "go on", "stop", or "stay" in the window."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, tr("A batch is running"),
                      tr("Versions are still being encoded."), parent=parent)
    box.setInformativeText(tr("The batch can continue without the window. Open Caracal again to "
                              "see its progress. When stopped, it can be resumed later."))
    return _answer(box, {"go on": tr("Continue in the background"), "stop": tr("Stop the batch"),
                         "stay": tr("Cancel")})


def what_of_film(parent: QWidget, film: Path) -> str:
    """Ask what is wanted with a ``film`` that was dropped: "open", "clip", "encode" or "stay"."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, tr("A film was dropped"),
                      tr("What should happen with {name}?", name=film.name), parent=parent)
    buttons = {box.addButton(words, QMessageBox.ButtonRole.AcceptRole): answer
               for words, answer in ((tr("Open it"), "open"), (tr("Add it as a clip"), "clip"),
                                     (tr("Encode it in the batch"), "encode"))}
    box.addButton(tr("Cancel"), QMessageBox.ButtonRole.RejectRole)
    clicked = _clicked(box)
    return next((answer for button, answer in buttons.items() if button is clicked), "stay")


def may_import(parent: QWidget, doubt: str) -> bool:
    """Ask whether captions are imported although there is a ``doubt``, which is a sentence."""
    box = QMessageBox(QMessageBox.Icon.NoIcon, tr("Do these captions belong to this film?"), doubt,
                      parent=parent)
    box.setInformativeText(tr("They replace the captions of the film; undo brings those back."))
    box.addButton(tr("Cancel"), QMessageBox.ButtonRole.RejectRole)
    take = box.addButton(tr("Import"), QMessageBox.ButtonRole.AcceptRole)
    return _clicked(box) is take


def _answer(box: QMessageBox, words: dict[str, str]) -> str:
    """The answer whose ``words`` were clicked: one that goes on, one that gives up, one that stays,
    in this order. Closing the box is the last one.
    """
    roles = (QMessageBox.ButtonRole.AcceptRole, QMessageBox.ButtonRole.DestructiveRole,
             QMessageBox.ButtonRole.RejectRole)
    buttons: dict[object, str] = {
        box.addButton(shown, role): answer
        for (answer, shown), role in zip(words.items(), roles, strict=True)}
    return buttons.get(_clicked(box), list(words)[-1])


def _clicked(box: QMessageBox) -> object:
    """The button that was clicked. The box may be gone with its parent, whose film was closed
    meanwhile: then it is None.
    """
    clicked: list[object] = []
    box.buttonClicked.connect(clicked.append)
    box.exec()
    return clicked[-1] if clicked else None
