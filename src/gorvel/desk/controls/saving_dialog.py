"""Asking where something is to be saved."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

__all__ = ["ask_where"]


def ask_where(parent: QWidget, title: str, data_file: Path, ending: str, kinds: str) -> Path | None:
    """A file beside the data, with an ending of its kind; None where it was thought better of.

    ending : of the name that is proposed, after that of the data; kinds : as Qt lists them.
    """
    start = data_file.with_name(f"{data_file.stem}-{ending}")
    name, kind = QFileDialog.getSaveFileName(parent, title, str(start), kinds)
    if not name:
        return None
    path = Path(name)
    return path if path.suffix else path.with_suffix("." + kind.split("*.")[1].rstrip(")"))
