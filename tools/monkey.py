"""A monkey at the real window: random keys, clicks, drags, files, and what comes of it.

    python tools/monkey.py [--seconds S | --actions N] [--seed SEED] [--at-once N]
    python tools/monkey.py --replay SCRIPT.json

Children use the window without a screen, each by a seed; a find is a defect that is met, an end of
the process, a child that stands still, or words on the screen that nobody should read. Its actions
are then left out, half of them, a quarter and so on, as long as it is found without them, and what
is left is written to a script that `--replay` plays. Ends with 1 where anything was found.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import re
import secrets
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
DEMO = ROOT / "demo"
ROUND = 250  # actions of one child
STANDS = 90  # seconds without a word after which a child stands still
TRIES = 40  # replays at most, to make a find short
ODD = "t & <b>u<b>.csv"  # made for each child
FILES = ("readers.toml", "stops.toml", "services.toml", "online.csv", ODD, "readers.csv",
         "../README.md")  # fmt: skip
_KEYS = """Ctrl+G Ctrl+K Ctrl+L Ctrl+E Ctrl+Z Ctrl+Shift+Z Ctrl+T Ctrl++ Ctrl+- Ctrl+R Ctrl+F
    Ctrl+C Ctrl+S Ctrl+M Ctrl+Shift+P Ctrl+Shift+O Ctrl+Return Ctrl+PgDown Alt+1 Alt+2 Alt+3 Alt+4
    Alt+5 Alt+6 Alt+V Alt+O Alt+M F1 F2 Left Right Up Down + - 0 F R S U J A P O L W K T 1 2 3 4 5
    Esc Return Tab Shift+Tab Space Delete Home End PgDown PgUp"""
KEYS = _KEYS.split()
WORDS = ("age", "a > 3 and b", "visits < 2", "1e300", "x" * 300, "é漢\u202e", "(", '"', "nan", "-1",
         "Elm & Fell", "0.5", "= 1 +")  # fmt: skip
OFFSCREEN = re.compile("This plugin does not support")  # says the platform without a screen
HATED = re.compile(r"Traceback|\bnan\b|\binf\b|<[a-z_.]+ object|\bNoneType\b")


def actions(seed: int, number: int) -> list[list[Any]]:
    """What a monkey does: each action by itself tells all that chance decides of it."""
    rng = random.Random(seed)
    out: list[list[Any]] = [["open", rng.choice(FILES[:5])], ["wait"], ["key", "Ctrl+G"], ["wait"]]
    kinds = ("key", "click", "double", "right", "drag", "wheel", "type", "wait", "page", "size",
             "open", "menu", "move", "again", "meddle")  # fmt: skip
    weights = (30, 30, 4, 4, 8, 5, 5, 8, 6, 2, 1, 3, 6, 3, 3)
    for kind in rng.choices(kinds, weights, k=number):
        x, y, which = rng.random(), rng.random(), rng.random()
        if kind == "key":
            out.append([kind, rng.choice(KEYS), which < 0.2])
        elif kind in ("click", "double", "right", "move"):
            out.append([kind, which, x, y, rng.choice(["", "", "", "Ctrl", "Shift"])])
        elif kind == "drag":
            out.append([kind, which, x, y, rng.random(), rng.random()])
        elif kind == "wheel":
            out.append([kind, which, x, y, rng.choice([-480, -120, 120, 480])])
        elif kind == "type":
            out.append([kind, which, rng.choice(WORDS)])
        elif kind == "page":
            out.append([kind, rng.randrange(6)])
        elif kind == "size":
            out.append(
                [kind, rng.choice([640, 900, 1280, 2000]), rng.choice([480, 733, 800, 1200])]
            )
        elif kind == "open":
            out.append([kind, rng.choice(FILES)])
        elif kind == "meddle":
            out.append([kind, which, rng.choice(["cut", "remove", "exchange"])])
        else:
            out.append([kind, which])
    return out


# the child


def odd_table() -> str:
    """A survey of which the names hold all that Qt takes for something else."""
    rows = ['"<i>id</i> & no",a & b,x<b>,<u>c</u>,of & in']
    for k in range(60):
        words = ["A & B", "<u>C</u>", "[*]", "%1 &amp; x"]
        rows.append(f"<b>R&D</b> {k},{k % 7}.{k % 9},{k * k % 11},{words[k % 4]},{words[k % 3]}")
    return "\n".join(rows)


def meddle(path: Path, how: str, other: Path) -> None:
    """Something else changes a file that the window has read or written, and may have open."""
    if not path.exists():
        path.write_text(odd_table(), encoding="utf-8")
    elif how == "remove":
        path.unlink()
    elif how == "cut":
        held = path.read_bytes()
        path.write_bytes(held[: len(held) // 2])
    else:
        path.write_bytes(other.read_bytes() if other.exists() else b"")


class Hands:
    """Does at the window what an action says."""

    def __init__(self, folder: Path) -> None:
        from gorvel.desk.state.settings import load_settings
        from gorvel.desk.window.application import make_application
        from gorvel.desk.window.window import Window
        from gorvel.desk.work.faults import FAULTS, guard_widgets

        self.app = make_application()
        self.folder, self.files = folder, 0
        self.luck = random.Random(1)
        (folder / ODD).write_text(odd_table(), encoding="utf-8")
        self._answer_dialogs()
        FAULTS.watch()
        self.faults = FAULTS
        self.window = Window(load_settings(), DEMO / "readers.toml")
        guard_widgets()
        self.window.keeper.watch()
        self.window.resize(1280, 800)
        self.window.show()

    def _answer_dialogs(self) -> None:
        """Dialogs that wait for an answer get one at once."""
        from PySide6.QtGui import QColor
        from PySide6.QtWidgets import QColorDialog, QInputDialog, QMenu, QMessageBox

        from gorvel.desk.controls.file_dialog import FileDialog

        def asked(dialog: FileDialog) -> bool:
            kinds = dialog.nameFilters()
            dialog.selectNameFilter(self.luck.choice(kinds))
            if dialog.acceptMode() == FileDialog.AcceptMode.AcceptOpen:
                file = self.luck.choice([None, *map(self.place, FILES), *self.saved()])
            else:
                self.files += 1
                endings = re.findall(r"\*(\.\w+)", str(kinds)) or [".csv"]
                called = f"f{self.files % 5}"
                name = self.luck.choice(
                    ["", called, f"{called}{self.luck.choice(endings)}", "no/where.csv", ODD]
                )
                file = self.folder / name if name else None
            if file is not None:
                dialog.selectFile(str(file))
            return file is not None

        def picked(menu: QMenu, *_: Any) -> None:
            ready = [one for one in menu.actions() if one.isEnabled() and one.text()]
            if ready:
                self.luck.choice(ready).trigger()
            menu.close()

        FileDialog.exec = asked  # type: ignore[method-assign,assignment]
        QInputDialog.getText = lambda *_, **__: (self.luck.choice(WORDS), True)  # type: ignore
        QInputDialog.getMultiLineText = lambda *_, **__: (self.luck.choice(WORDS), True)  # type: ignore
        QColorDialog.getColor = lambda *_, **__: QColor(self.luck.randrange(1 << 24))  # type: ignore
        QMenu.exec = picked  # type: ignore[method-assign,assignment]
        QMessageBox.exec = lambda box: self.luck.choice(box.buttons()).click()  # type: ignore

    def place(self, name: str) -> Path:
        """Where a file of `FILES` is."""
        return (self.folder if name == ODD else DEMO) / name

    def saved(self) -> list[Path]:
        """What was saved."""
        return sorted(self.folder.glob("f[0-4]*"))

    def settle(self, seconds: float) -> None:
        """Let the window work; what it closed is deleted, as it is when its own loop goes on."""
        from PySide6.QtCore import QEvent

        end = time.monotonic() + seconds
        while True:
            self.app.processEvents()
            if self.window.acts.jobs.idle or time.monotonic() > end:
                break
            time.sleep(0.002)
        self.app.processEvents()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def carry_out(self, action: list[Any]) -> None:
        kind, *of = action
        if kind == "wait":
            self.settle(1.0)
        elif kind == "page":
            self.window.go_to(of[0])
        elif kind == "size":
            self.window.resize(*of)
        elif kind == "open":
            self.window.acts.open(self.place(of[0]))
        elif kind in ("again", "meddle"):
            saved = [*self.saved(), self.folder / ODD]
            if saved and kind == "again":
                self.window.acts.open(saved[int(of[0] * len(saved))])
            elif saved:
                meddle(saved[int(of[0] * len(saved))], of[1], saved[0])
        elif kind == "menu":
            self._menu(of[0])
        elif kind == "key":
            self._key(*of)
        else:
            self._pointer(kind, *of)
        self.settle(0.02)

    def _menu(self, which: float) -> None:
        menu = self.window.build_menu()
        ready = [one for one in menu.actions() if one.isEnabled() and one.text()]
        chosen = ready[int(which * len(ready))]
        if not chosen.text().startswith("Quit"):
            chosen.trigger()
        menu.close()
        menu.deleteLater()

    def _key(self, keys: str, to_window: bool = False) -> None:
        from PySide6.QtGui import QKeySequence
        from PySide6.QtTest import QTest

        focus = self.app.focusWidget()
        QTest.keySequence(self.window if to_window or focus is None else focus, QKeySequence(keys))

    def _pointer(self, kind: str, which: float, *of: Any) -> None:
        from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
        from PySide6.QtGui import QKeyEvent, QWheelEvent
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QLineEdit, QWidget

        top = self.app.activePopupWidget() or self.app.activeModalWidget() or self.window
        kinds = QLineEdit if kind == "type" else QWidget
        seen = [one for one in top.findChildren(kinds) if one.isVisible() and one.isEnabled()]
        if not seen:
            top.close() if top is not self.window else None
            return
        target = seen[int(which * len(seen))]
        left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        if kind == "type":
            target.setFocus()
            for sign in of[0]:
                for kind_ in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                    self.app.sendEvent(target, QKeyEvent(kind_, 0, none, sign))
            QTest.keyClick(target, Qt.Key.Key_Return)
            return
        inner = getattr(target, "viewport", lambda: target)()
        at = QPoint(int(of[0] * inner.width()), int(of[1] * inner.height()))
        if kind == "wheel":
            turn = QWheelEvent(
                QPointF(at), QPointF(inner.mapToGlobal(at)), QPoint(), QPoint(0, of[2]),
                Qt.MouseButton.NoButton, none, Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            self.app.sendEvent(inner, turn)
        elif kind == "drag":
            to = QPoint(int(of[2] * inner.width()), int(of[3] * inner.height()))
            QTest.mousePress(inner, left, none, at)
            QTest.mouseMove(inner, (at + to) / 2)
            QTest.mouseMove(inner, to)
            QTest.mouseRelease(inner, left, none, to)
        elif kind == "move":
            QTest.mouseMove(inner, at)
        else:
            mods = {
                "Ctrl": Qt.KeyboardModifier.ControlModifier,
                "Shift": Qt.KeyboardModifier.ShiftModifier,
            }
            button = Qt.MouseButton.RightButton if kind == "right" else left
            press = QTest.mouseDClick if kind == "double" else QTest.mouseClick
            press(inner, button, mods.get(of[2], none), at)

    def hated(self) -> str:
        """Words on the screen that nobody should read."""
        from PySide6.QtWidgets import QLabel

        for label in self.window.findChildren(QLabel):
            if label.isVisible() and (found := HATED.search(label.text())) is not None:
                typed = any(word in label.text() for word in WORDS if len(word) > 2)
                if not typed:
                    return f"{found[0]!r} in {label.text()!r}"
        return ""


def memory() -> int:
    """Bytes of this process in memory."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def child(script: str, folder: str) -> int:
    """Carry out a script; says what it does before it does it."""
    hands = Hands(Path(folder))
    for number, action in enumerate(json.loads(Path(script).read_text())):
        print(json.dumps([number, action]), flush=True)
        hands.carry_out(action)
        if number % 500 == 0:
            print(f"memory {memory() >> 20}", flush=True)
        if hands.faults.last:
            print(hands.faults.last, file=sys.stderr)
            return 9
        words = hands.hated()
        if words:
            print(f"on the screen: {words}", file=sys.stderr)
            return 9
    hands.settle(10.0)
    hands.window.leave()
    hands.window.acts.finish()
    print(f"memory {memory() >> 20}", flush=True)
    return 0


# the parent


def carried_out(script: list[list[Any]]) -> tuple[str, int, list[int]]:
    """What was found by a script, "" for nothing; how far it came; MiB of memory in between."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "script.json").write_text(json.dumps(script))
        env = os.environ | {
            "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(ROOT / "src"),
            "GORVEL_SETTINGS": str(folder / "settings.json"), "XDG_STATE_HOME": name,
            "PYTHONFAULTHANDLER": "1",
        }  # fmt: skip
        command = [sys.executable, __file__, "--child", str(folder / "script.json"), name]
        run = subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=env, cwd=folder
        )
        try:
            out, err = run.communicate(timeout=STANDS + len(script))
        except subprocess.TimeoutExpired:
            run.kill()
            out, err = run.communicate()
            err += "\nstood still"
    lines = out.splitlines()
    done = sum(line.startswith("[") for line in lines)
    sizes = [int(line.split()[1]) for line in lines if line.startswith("memory ")]
    words = "\n".join(line for line in err.splitlines() if not OFFSCREEN.match(line))
    words = words.partition("\nExtension modules:")[0]
    if run.returncode == 0 and "Traceback" not in words:
        return "", done, sizes
    return f"exit {run.returncode}\n{words[-3_000:]}", done, sizes


def shorter(script: list[list[Any]]) -> list[list[Any]]:
    """Fewer actions by which something is found, too."""
    part, tries = max(len(script) // 2, 1), 0
    while part and tries < TRIES:
        at = 0
        while at < len(script) and tries < TRIES:
            without = script[:at] + script[at + part :]
            tries += 1
            found, done, _ = carried_out(without) if without else ("", 0, [])
            if found:
                script = without[:done]
            else:
                at += part
        part //= 2
    return script


def tried(seed: int, number: int) -> tuple[int, str]:
    """One monkey: how many actions it came to, and what it found, in words."""
    script = actions(seed, number)
    found, done, sizes = carried_out(script)
    told = f"seed {seed}: {done} actions, memory {' '.join(map(str, sizes))} MiB"
    if not found:
        print(told, flush=True)
        return done, ""
    print(f"{told}: FOUND\n{found}", flush=True)
    short = shorter(script[:done])
    path = Path(tempfile.gettempdir()) / f"monkey-{seed}.json"
    path.write_text(json.dumps(short))
    return done, f"seed {seed}: {found}\n{len(short)} actions, in {path}:\n{json.dumps(short)}"


def main() -> int:
    """Let monkeys loose; returns the exit status."""
    asked = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawTextHelpFormatter
    )
    asked.add_argument("--seconds", type=float, default=0.0)
    asked.add_argument("--actions", type=int, default=1_000)
    asked.add_argument("--round", type=int, default=ROUND, help="actions of one child")
    asked.add_argument("--seed", type=int, help="of the first child; a fresh one by default")
    asked.add_argument("--at-once", type=int, default=2)
    asked.add_argument("--replay", type=Path)
    asked.add_argument("--child", nargs=2)
    told = asked.parse_args()
    if told.child:
        return child(*told.child)
    if told.replay:
        found, done, _ = carried_out(json.loads(told.replay.read_text()))
        print(found or f"nothing found in {done} actions")
        return int(bool(found))
    seed = told.seed if told.seed is not None else secrets.randbelow(1 << 30)
    print(f"monkeys begin with seed {seed}", flush=True)
    begin, total, finds, k = time.monotonic(), 0, [], 0
    with ThreadPoolExecutor(told.at_once) as pool:
        while True:
            rounds = [pool.submit(tried, seed + k + i, told.round) for i in range(told.at_once)]
            k += told.at_once
            for one in rounds:
                done, found = one.result()
                total += done
                finds += [found] if found else []
            over = (
                time.monotonic() - begin > told.seconds if told.seconds else total >= told.actions
            )
            if over:
                break
    spent = time.monotonic() - begin
    print(f"{total:,} actions in {spent:.0f} s, {len(finds)} finds", *finds, sep="\n")
    return int(bool(finds))


if __name__ == "__main__":
    sys.exit(main())
