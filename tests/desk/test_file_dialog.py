"""Files are asked for in the program's own looks, where they were used last, in words."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QImage
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QListView,
    QMessageBox,
    QPushButton,
    QToolButton,
)
from pytestqt.qtbot import QtBot

from gorvel.desk.controls.file_dialog import FileDialog, ask_for_file, ask_where
from gorvel.desk.state.settings import load_settings
from gorvel.desk.window.window import Window
from gorvel.paint.theme import current

TABLES = "CSV table (*.csv);;Excel workbook (*.xlsx)"


@pytest.fixture
def in_dialog(qtbot: QtBot) -> Callable[[Callable[[FileDialog], object]], list[str]]:
    """What is done in the next dialog, while it is open; what goes wrong is handed over."""

    def begin(act: Callable[[FileDialog], object]) -> list[str]:
        wrong: list[str] = []

        def now() -> None:
            dialog = QApplication.activeModalWidget()
            try:
                assert isinstance(dialog, FileDialog)
                act(dialog)
            except Exception as error:  # else the test waits for the dialog for ever
                wrong.append(repr(error))
            finally:
                if isinstance(dialog, FileDialog) and dialog.isVisible():
                    wrong.append("the dialog is still open")
                    dialog.reject()

        QTimer.singleShot(0, now)
        return wrong

    return begin


def typed(dialog: FileDialog, qtbot: QtBot, name: str) -> None:
    line = dialog.findChild(QLineEdit, "fileNameEdit")
    line.setText(name)
    qtbot.keyClick(line, Qt.Key.Key_Return)


def test_a_name_is_typed_and_its_folder_is_offered_next_time(
    window: Window, qtbot: QtBot, tmp_path: Path, in_dialog: Callable[..., list[str]]
) -> None:
    (tmp_path / "wave").mkdir()
    file = tmp_path / "wave" / "t.csv"
    file.write_text("a\n1\n")
    wrong = in_dialog(lambda dialog: typed(dialog, qtbot, str(file)))
    assert ask_for_file(window, "Open", tmp_path, TABLES) == file
    wrong += in_dialog(lambda dialog: dialog.reject())
    assert ask_for_file(window, "Open", None, TABLES) is None
    assert wrong == []
    assert load_settings().places[0] == str(file.parent)
    again = FileDialog(window, "Open", None, TABLES)
    assert again.directory().absolutePath() == str(file.parent)
    places = [url.toLocalFile() for url in again.sidebarUrls()]
    assert places == [str(Path.home()), str(file.parent)]
    gone = FileDialog(window, "Open", tmp_path / "no" / "more", TABLES)
    assert gone.directory().absolutePath() == str(file.parent)
    proposed = FileDialog(window, "Save", tmp_path / "no" / "t.csv", TABLES, saving=True)
    assert proposed.directory().absolutePath() == str(file.parent)
    assert Path(proposed.selectedFiles()[0]).name == "t.csv"
    file.unlink()
    os.rmdir(file.parent)  # what is not there any more is not offered
    assert str(file.parent) not in str(FileDialog(window, "Open", None, TABLES).sidebarUrls())


def test_a_file_that_is_not_there_is_said_and_asked_for_again(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    in_dialog: Callable[..., list[str]],
) -> None:  # fmt: skip
    told: list[str] = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: told.append(box.text()))

    def act(dialog: FileDialog) -> None:
        typed(dialog, qtbot, "none.csv")
        assert dialog.isVisible()
        dialog.reject()

    wrong = in_dialog(act)
    assert ask_for_file(window, "Open", tmp_path, TABLES) is None
    assert wrong == []
    assert told == [f"none.csv was not found in {tmp_path}."]


def test_a_table_is_saved_by_its_kind_in_words(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    in_dialog: Callable[..., list[str]],
) -> None:  # fmt: skip
    (tmp_path / "m.xlsx").write_text("of somebody else")
    told: list[str] = []

    def answer(box: QMessageBox) -> None:
        told.append(box.text())
        next(one for one in box.buttons() if one.text() == "Replace").click()

    monkeypatch.setattr(QMessageBox, "exec", answer)

    def act(dialog: FileDialog) -> None:
        kinds = dialog.findChild(QComboBox, "fileTypeCombo")
        assert [kinds.itemText(k) for k in range(2)] == ["CSV table", "Excel workbook"]
        assert dialog.findChild(QLineEdit, "fileNameEdit").text() == "m.csv"
        kinds.setCurrentIndex(1)
        kinds.activated.emit(1)
        typed(dialog, qtbot, "m")

    wrong = in_dialog(act)
    found = ask_where(window, "Save the table", tmp_path / "m.csv", TABLES)
    assert wrong == []
    assert found == (tmp_path / "m.xlsx", "Excel workbook (*.xlsx)")
    assert told == ["m.xlsx already exists."]


@pytest.mark.parametrize("saving", [False, True])
def test_the_words_and_icons_are_our_own(window: Window, tmp_path: Path, saving: bool) -> None:
    for name in ("t.csv", "s.gorvel", "n.md"):
        (tmp_path / name).touch()
    dialog = FileDialog(window, "Title", tmp_path, TABLES, saving=saving)
    labels = {one.text() for one in dialog.findChildren(QLabel) if one.text()}
    assert labels == {"Folder", "Name", "Kind"}
    buttons = {one.text() for one in dialog.findChildren(QPushButton)}
    assert buttons == {"Save" if saving else "Open", "Cancel"}
    theme = current()
    greys = [theme.soft, theme.line]
    tools = [tool for tool in dialog.findChildren(QToolButton) if not tool.icon().isNull()]
    icons = [tool.icon() for tool in tools]
    assert all(tool.toolTip() and tool.accessibleName() for tool in tools)
    model = dialog.findChild(QListView, "listView").model()
    root = model.index(0, 0).parent()
    icons += [model.index(row, 0, root).data(Qt.ItemDataRole.DecorationRole) for row in range(
        model.rowCount(root))]  # fmt: skip
    sidebar = dialog.findChild(QListView, "sidebar").model()
    icons += [
        sidebar.index(row, 0).data(Qt.ItemDataRole.DecorationRole)
        for row in range(sidebar.rowCount())
    ]
    assert len(icons) > 6
    for icon in icons:
        image = icon.pixmap(32, 32).toImage().convertToFormat(QImage.Format.Format_ARGB32)
        seen = {
            image.pixelColor(x, y).name().upper()
            for x in range(image.width()) for y in range(image.height())
            if image.pixelColor(x, y).alpha() == 255
        }  # fmt: skip
        assert seen <= set(greys)
