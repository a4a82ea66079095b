"""Asking for files: which are opened, and where something is saved.

Nothing is replaced that was not asked about.
"""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtCore import QSize, QUrl
from PySide6.QtWidgets import (
    QFileDialog,
    QHeaderView,
    QListView,
    QSplitter,
    QToolButton,
    QTreeView,
    QWidget,
)

from gorvel.core.table.file_kinds import endings
from gorvel.desk.controls.dialog_parts import ask
from gorvel.desk.controls.file_icons import FileIcons, tool_icon
from gorvel.desk.controls.plain_text import as_tip
from gorvel.desk.state.settings import load_settings, save_settings

ALL_FILES = "All files (*)"

_ENDING = re.compile(r"\*(\.\w+)")
_ANOTHER = "Use another name …"
_ANSWERS = (_ANOTHER, "Replace", "Cancel")
_OTHER = re.compile(r"\.[A-Za-z]+")  # an ending, and not the rest of a name such as "wave 2.1"
_TOOLS = {
    "backButton": ("back", "Back"),
    "forwardButton": ("forward", "Forward"),
    "toParentButton": ("up", "Parent folder"),
    "newFolderButton": ("new", "New folder"),
    "listModeButton": ("list", "List"),
    "detailModeButton": ("details", "Details"),
}
_SIZE, _SIDE, _ICON = (860, 520), 170, QSize(16, 16)
_NAME, _BYTES, _TYPE, _CHANGED = range(4)  # columns, as Qt has them


class FileDialog(QFileDialog):
    """Asks for files in the program's own looks, with the folders used last at the side.

    start : a folder, the one used last where it is None; when saving, the file that is proposed;
    kinds : as Qt lists them, of which the words are shown.
    """

    def __init__(
        self, parent: QWidget, title: str, start: Path | None, kinds: str, *, saving: bool = False,
        many: bool = False,
    ) -> None:  # fmt: skip
        super().__init__(parent, title)
        option, label = QFileDialog.Option, QFileDialog.DialogLabel
        for one in (option.DontUseNativeDialog, option.DontConfirmOverwrite,
                    option.HideNameFilterDetails, option.DontUseCustomDirectoryIcons):  # fmt: skip
            self.setOption(one)
        self.setOption(option.ReadOnly, not saving)
        self._icons = FileIcons()  # Qt does not keep it
        self.setIconProvider(self._icons)
        self.setFileMode(
            QFileDialog.FileMode.AnyFile if saving
            else QFileDialog.FileMode.ExistingFiles if many
            else QFileDialog.FileMode.ExistingFile
        )  # fmt: skip
        if saving:
            self.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
        self.setNameFilters(kinds.split(";;"))
        for part, words in ((label.LookIn, "Folder"), (label.FileName, "Name"),
                            (label.FileType, "Kind"), (label.Accept, "Save" if saving else "Open"),
                            (label.Reject, "Cancel")):  # fmt: skip
            self.setLabelText(part, words)
        places = [Path(place) for place in load_settings().places]
        last = next((place for place in places if place.is_dir()), Path.home())
        start = last if start is None else start.absolute()
        folder = start if start.is_dir() else start.parent
        folder = folder if folder.is_dir() else last  # it may have been moved away
        self.setDirectory(str(folder))
        if saving and folder != start:
            self.selectFile(start.name)
        shown = dict.fromkeys([Path.home(), folder, *places])
        self.setSidebarUrls([QUrl.fromLocalFile(str(one)) for one in shown if one.is_dir()])
        for name, (drawing, words) in _TOOLS.items():
            for tool in self.findChildren(QToolButton, name):
                tool.setIcon(tool_icon(drawing))
                tool.setToolTip(as_tip(words))
                tool.setAccessibleName(words)
        self.setViewMode(QFileDialog.ViewMode.Detail)
        self._give_room()

    def _give_room(self) -> None:
        """The names get what the dialog has; the kind is seen by the icon."""
        self.resize(*_SIZE)
        for side in self.findChildren(QListView, "sidebar"):
            side.setIconSize(_ICON)
        for splitter in self.findChildren(QSplitter):
            splitter.setSizes([_SIDE, _SIZE[0] - _SIDE])
        for files in self.findChildren(QTreeView, "treeView"):
            head = files.header()
            head.setStretchLastSection(False)
            head.setSectionResizeMode(_NAME, QHeaderView.ResizeMode.Stretch)
            for column in (_BYTES, _CHANGED):
                head.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
            head.setSectionHidden(_TYPE, True)

    def chosen(self) -> tuple[list[str], str]:
        """The files that the user chooses, none where it is cancelled, and their kind."""
        files = self.selectedFiles() if self.exec() else []
        if files:
            settings = load_settings()
            settings.remember_place(Path(files[0]).parent)
            save_settings(settings)
        kind = self.selectedNameFilter()
        self.deleteLater()
        return files, kind

    def accept(self) -> None:
        """What is not there cannot be opened: the name is asked for again."""
        missing = [name for name in self.selectedFiles() if not Path(name).exists()]
        if missing and self.acceptMode() == QFileDialog.AcceptMode.AcceptOpen:
            ask(self, f"{Path(missing[0]).name} was not found in {Path(missing[0]).parent}.", "OK")
        else:
            super().accept()


def tables_filter() -> str:
    """Tables of kinds that can be read without a choice, as Qt lists them."""
    return filter_of("Tables", *endings(lambda kind: not kind.one_of), ".gz")


def filter_of(words: str, *found: str) -> str:
    """A kind of file as Qt lists it: only the words are shown."""
    return f"{words} ({' '.join(f'*{ending}' for ending in found)})"


def ask_for_file(parent: QWidget, title: str, start: Path | None, kinds: str) -> Path | None:
    """A file to be read; None where it was thought better of."""
    files, _ = FileDialog(parent, title, start, kinds).chosen()
    return Path(files[0]) if files else None


def ask_for_files(parent: QWidget, title: str, start: Path, kinds: str) -> list[Path]:
    """Files to be read together."""
    files, _ = FileDialog(parent, title, start, kinds, many=True).chosen()
    return [Path(name) for name in files]


def ask_where(parent: QWidget, title: str, start: Path, kinds: str) -> tuple[Path, str] | None:
    """A file, its name with an ending, and its kind; None where it was thought better of.

    start : the name that is proposed; kinds : as Qt lists them. An ending of another kind stays
    where there are several: whoever writes the file says what becomes of it.
    """
    while True:
        files, kind = FileDialog(parent, title, start, kinds, saving=True).chosen()
        if not files:
            return None
        given, endings = Path(files[0]), _ENDING.findall(kinds)
        suffix = given.suffix.lower()
        named = suffix in endings or (len(set(endings)) > 1 and _OTHER.fullmatch(suffix))
        path = given if named else given.with_name(given.name + _ENDING.findall(kind or kinds)[0])
        if not path.exists():
            return path, kind
        answer = ask(parent, f"{path.name} already exists.", *_ANSWERS)
        if _ANSWERS[answer] != _ANOTHER:
            return (path, kind) if answer == 1 else None
        start = path


def ask_beside(
    parent: QWidget, title: str, data_file: Path, ending: str, kinds: str
) -> Path | None:
    """The same, of a file beside the data. ending : what is proposed after the name of theirs."""
    start = data_file.with_name(f"{data_file.stem}-{ending}")
    found = ask_where(parent, title, start, kinds)
    return None if found is None else found[0]
