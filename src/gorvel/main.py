"""Where every call begins: hands it to the window or to the command line, and ends it.

The window is only imported when it is wanted, so that runs without one need no Qt.
"""

from __future__ import annotations

import os
import signal
import sys
from pathlib import Path
from types import FrameType

from gorvel.core.errors import Cancelled, GorvelError, InputError

__all__ = ["DEMO", "entry", "status_of"]

DEMO = Path(__file__).parents[2] / "demo"


def entry() -> None:
    """Run the call in sys.argv and exit with the status of the contract."""
    signal.signal(signal.SIGTERM, _interrupt)
    sys.exit(status_of(sys.argv[1:]))


def status_of(arguments: list[str]) -> int:
    """Carry out a call; returns its exit status, after the one line that says what went wrong."""
    try:
        return _call(arguments)
    except GorvelError as error:
        print(f"gorvel: error: {error}", file=sys.stderr)
        return error.exit_status
    except KeyboardInterrupt:
        print(f"gorvel: error: {Cancelled()}", file=sys.stderr)
        return Cancelled.exit_status
    except MemoryError:
        print("gorvel: error: not enough memory for this many cases", file=sys.stderr)
        return 3


def _interrupt(number: int, frame: FrameType | None) -> None:
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
        return _window(DEMO / "readers.toml") if _has_display() else _demo_without_window()
    from gorvel.cli.main import main

    main(arguments)
    return 0


def _has_display() -> bool:
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def _window(path: Path | None) -> int:
    from gorvel.desk.application import start

    return start(path, DEMO / "readers.toml")


def _demo_without_window() -> int:
    """Run the demo plan, write its results and a picture of every page, say what was written."""
    from gorvel.core.run import run_plan

    target = Path("demo-output")
    outcome = run_plan(DEMO / "readers.toml", target)
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from gorvel.desk.pictures import picture_pages

    pictures = picture_pages(DEMO / "readers.toml", target)
    print(f"No display, so the demo ran without a window and wrote to {target}/:")
    for name in [*outcome.files, *(picture.name for picture in pictures)]:
        print(f"  {name}")
    return 0
