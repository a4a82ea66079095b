"""Putting something on the clipboard in several forms at once."""

from __future__ import annotations

import atexit

from PySide6.QtCore import QByteArray, QMimeData
from PySide6.QtWidgets import QApplication

_OURS = "application/x-gorvel"
_promised: list[bool] = []  # holds an entry once the clipboard is to be seen to at the end


def put_on_clipboard(data: QMimeData) -> None:
    """Programs take the form that suits them."""
    data.setData(_OURS, QByteArray(b"1"))
    QApplication.clipboard().setMimeData(data)
    if not _promised:
        _promised.append(True)
        atexit.register(_keep_one_form)


def _keep_one_form() -> None:
    """Leave text or picture only: what was made here must not outlive the interpreter."""
    if QApplication.instance() is None:
        return
    board = QApplication.clipboard()
    data = board.mimeData()
    if not data.hasFormat(_OURS):
        return
    if data.hasImage():
        board.setImage(board.image())
    else:
        board.setText(data.text())
