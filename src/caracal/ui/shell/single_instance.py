"""A second start with a file: the window that is there opens it, or a new window does, by choice.

The first window listens on a local socket that only its user can reach. A later start asks there;
the answer is the choice of whoever sits before the window.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, QSettings, QTimer
from PySide6.QtNetwork import QLocalServer, QLocalSocket

from caracal.core.base.decoding import DecodeError, decode_json
from caracal.core.base.logs import log
from caracal.core.base.paths import path_of, text_of
from caracal.ui.services.settings import kept_flag

CHOICE = "open here"  # the setting: whether films from outside open in the window that is there
ASK_MS = 500  # a window that does not answer in this time is busy: a new one opens
MOST_BYTES = 64 << 10  # of a question
AGAIN_MS = 5000  # until a window tries again to be the one that listens
TAKEN, REFUSED = b"taken\n", b"refused\n"


class _Asked(msgspec.Struct):
    open: str


def socket_name() -> str:
    """The name on which windows of this user and display listen."""
    display = os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY") or "none"
    screen = "".join(letter if letter.isalnum() else "-" for letter in display)
    return f"caracal-{os.getuid()}-{screen}"


def opens_elsewhere(path: Path, name: str | None = None) -> bool:
    """Whether a window that is there has taken ``path`` over; it waits for its answer."""
    socket = QLocalSocket()
    socket.connectToServer(name or socket_name())
    if not socket.waitForConnected(ASK_MS):
        return False
    socket.write(msgspec.json.encode(_Asked(text_of(path.absolute()))) + b"\n")
    socket.waitForBytesWritten(ASK_MS)
    answer = b""
    while not answer.endswith(b"\n") and socket.waitForReadyRead(ASK_MS):
        answer += bytes(socket.readAll().data())
    return answer == TAKEN


class SecondStart(QObject):
    """Listens for later starts while its window is there."""

    def __init__(
        self, parent: QObject, settings: QSettings, take: Callable[[Path], None],
        name: str | None = None,
    ) -> None:
        """``take`` opens a file in the window, and brings it to the front."""
        super().__init__(parent)
        self._settings, self._take, self._name = settings, take, name or socket_name()
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._connected)
        self._again = QTimer(self)
        self._again.setInterval(AGAIN_MS)
        self._again.timeout.connect(self._listen)
        self._listen()

    @property
    def listens(self) -> bool:
        """Whether later starts ask this window."""
        return self._server.isListening()

    def _listen(self) -> None:
        """Listen, unless another window does; what one that crashed has left is taken away."""
        if not _answers(self._name):
            QLocalServer.removeServer(self._name)
            self._server.listen(self._name)
        (self._again.stop if self.listens else self._again.start)()

    def _connected(self) -> None:
        while (socket := self._server.nextPendingConnection()) is not None:
            socket.readyRead.connect(lambda socket=socket: self._asked(socket))
            socket.disconnected.connect(socket.deleteLater)

    def _asked(self, socket: QLocalSocket) -> None:
        if socket.bytesAvailable() > MOST_BYTES:
            socket.abort()
            return
        if not socket.canReadLine():
            return
        try:
            asked = decode_json(bytes(socket.readLine().data()), _Asked)
        except DecodeError as problem:
            log.info("a second start was not understood: %s", problem)
            socket.abort()
            return
        here = opens_here(self._settings)
        socket.write(TAKEN if here else REFUSED)
        socket.flush()
        socket.disconnectFromServer()
        if here:
            self._take(path_of(asked.open))

    def close(self) -> None:
        """Listen no more: the next window that is there may."""
        self._again.stop()
        self._server.close()


def opens_here(settings: QSettings) -> bool:
    """Whether films from outside open in the window that is there."""
    return kept_flag(settings, CHOICE, True)


def _answers(name: str) -> bool:
    socket = QLocalSocket()
    socket.connectToServer(name)
    return socket.waitForConnected(ASK_MS)
