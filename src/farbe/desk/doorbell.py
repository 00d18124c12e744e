"""A window that has a job open comes to the front when somebody opens that job again."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtNetwork import QLocalServer, QLocalSocket

from farbe.press.client import socket_path

#: Milliseconds that a window has to answer; one that is busy starting may take some.
PATIENCE = 1500
_ANSWER = b"here\n"


def _bell(path: Path) -> str:
    """The socket by which the window is found that has a file open."""
    return str(socket_path(path.resolve() / "window"))


def ring(path: Path) -> bool:
    """Ask the window that has a job open to come to the front.

    Parameters
    ----------
    path : the job's file

    Returns
    -------
    Whether there is one, and it has.
    """
    line = QLocalSocket()
    line.connectToServer(_bell(path))
    if not line.waitForConnected(PATIENCE):
        return False
    answered = line.waitForReadyRead(PATIENCE)
    line.disconnectFromServer()
    return answered


class Doorbell(QObject):
    """Listens for those who open the job that is open here."""

    rung = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._answer)

    def listen(self, path: Path | None) -> None:
        """Answer for this file, which nobody else has open, and for no other.

        Parameters
        ----------
        path : the job's file; None answers no more
        """
        self._server.close()
        if path is not None:
            # What stands there was left by a window that ended suddenly.
            QLocalServer.removeServer(_bell(path))
            self._server.listen(_bell(path))

    def _answer(self) -> None:
        while (line := self._server.nextPendingConnection()) is not None:
            line.disconnected.connect(line.deleteLater)
            line.write(_ANSWER)
            line.flush()
            self.rung.emit()
