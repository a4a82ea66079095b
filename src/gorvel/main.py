"""Where every call begins: hands it to the window or to the command line, and ends it.

The window is only imported when it is wanted, so that runs without one need no Qt.
"""

from __future__ import annotations

import errno
import io
import os
import signal
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

from gorvel.cli.watching import STOP
from gorvel.core.base.errors import Cancelled, GorvelError, InputError, NoWindowError

_LONGEST = 2_000  # characters of the line that says what went wrong
_ENDS = (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)
DEMO = Path(__file__).parents[2] / "demo"


def entry() -> None:
    """Run the call in sys.argv and exit with the status of the contract."""
    _open_streams()
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # names of files need not be text, nor be sayable
            stream.reconfigure(errors="backslashreplace")
    for number in _ENDS:
        signal.signal(number, _interrupt)
    status = status_of(sys.argv[1:])
    for number in _ENDS:  # all is done: what comes now is too late to change that
        signal.signal(number, signal.SIG_IGN)
    sys.exit(status)


def _open_streams() -> None:
    """Where the caller closed one of the three, nothing is told; no other file gets its number."""
    for number in range(3):
        try:
            os.fstat(number)
        except OSError:
            os.open(os.devnull, os.O_RDWR)  # the smallest number that is free
    for number, name in enumerate(("stdin", "stdout", "stderr")):
        if getattr(sys, name) is None:
            setattr(sys, name, open(number, "w" if number else "r", closefd=False))  # noqa: SIM115


def status_of(arguments: list[str]) -> int:
    """Carry out a call; returns its exit status, after the one line that says what went wrong."""
    try:
        status = _call(arguments)
        sys.stdout.flush()
        return status
    except BrokenPipeError:  # who read what is told has heard enough; files are written by then
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 128 + signal.SIGPIPE
    except OSError as error:  # all that reads and writes files has its own errors
        if error.errno != errno.ENOSPC:
            raise
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        print("gorvel: error: no space left to write the output", file=sys.stderr)
        return 2
    except GorvelError as error:
        print(error_line(error), file=sys.stderr)
        return error.exit_status
    except KeyboardInterrupt:
        return _cancelled()
    except MemoryError:
        print("gorvel: error: not enough memory for this many cases", file=sys.stderr)
        return 3
    except Exception:
        if STOP.is_set():  # a library made something else of it
            return _cancelled()
        raise


def error_line(error: object) -> str:
    """The one line that says what went wrong: not too long, without signs that steer a terminal."""
    words = "".join(
        letter if letter.isprintable() else letter.encode("unicode_escape").decode()
        for letter in str(error)
    )
    line = f"gorvel: error: {words}"
    return line if len(line) <= _LONGEST else f"{line[: _LONGEST - 1]}…"


def _cancelled() -> int:
    """Say it in one line, and end with the status of the contract.

    So even where code from a text was interrupted: the interpreter remembers that, and would end
    itself by a signal, until it runs another.
    """
    exec("")
    print(f"gorvel: error: {Cancelled()}", file=sys.stderr)
    return Cancelled.exit_status


def _interrupt(number: int, frame: FrameType | None) -> None:
    STOP.set()
    raise KeyboardInterrupt


def _call(arguments: list[str]) -> int:
    command = arguments[0] if arguments else ""
    if command == "":
        return _window(None)
    if command == "open":
        if len(arguments) != 2:
            raise InputError(" ".join(arguments), "gorvel open FILE")
        return _window(Path(arguments[1]))
    if command == "demo":
        shown = _has_display() and os.environ.get("QT_QPA_PLATFORM") != "offscreen"
        return _window(DEMO / "readers.toml") if shown else _demo_without_window()
    from gorvel.cli.main import main

    main(arguments)
    return 0


def _has_display() -> bool:
    names = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    return any(os.environ.get(name) for name in names)


@contextmanager
def _needing_qt() -> Iterator[None]:
    """Qt's own libraries come with it; those of the system may be missing."""
    try:
        yield
    except ImportError as error:
        raise NoWindowError(
            f"Qt cannot start here ({error}); the set-up says which system libraries it needs"
        ) from error


def _window(path: Path | None) -> int:
    if not _has_display():
        raise NoWindowError(
            "there is no display to open a window on; gorvel run carries out a plan without one"
        )
    with _needing_qt():
        from gorvel.desk.window.application import start
    return start(path, DEMO / "readers.toml")


def _demo_without_window() -> int:
    """Run the demo plan, write its results and a picture of every page, say what was written."""
    from gorvel.core.run import run_plan

    target = Path("demo-output")
    outcome = run_plan(DEMO / "readers.toml", target)
    written = list(outcome.files)
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    try:
        with _needing_qt():
            from gorvel.desk.window.pictures import picture_pages
        written += [picture.name for picture in picture_pages(DEMO / "readers.toml", target)]
    except NoWindowError as error:
        print(f"gorvel: no pictures: {error}", file=sys.stderr)
    print(f"No display, so the demo ran without a window and wrote to {target}/:")
    for name in written:
        print(f"  {name}")
    return 0
