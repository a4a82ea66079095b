"""Makes the pictures in docs/screenshots/ from the demo data.

QT_QPA_PLATFORM=offscreen PYTHONPATH=src .venv/bin/python tools/make_screenshots.py
"""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSize

from gorvel.desk.pictures import grown_window, picture_pages, wait_for

ROOT = Path(__file__).parents[1]
PLAN = ROOT / "demo" / "readers.toml"
TARGET = ROOT / "docs" / "screenshots"
_JOBS = ("gaps", "outliers", "correlations")


def main() -> None:
    """One picture of each page in light, of the tree in dark, and of the sides of the cases."""
    TARGET.mkdir(parents=True, exist_ok=True)
    made = picture_pages(PLAN, TARGET)
    for path in picture_pages(PLAN, TARGET, "dark", suffix="-dark"):
        if path.stem == "tree-dark":
            made.append(path)
        else:
            path.unlink()
    made += cases_from_all_sides()
    for path in made:
        print(path.relative_to(ROOT))


def cases_from_all_sides() -> list[Path]:
    """The tabs of the Cases page that work something out."""
    window = grown_window(PLAN, QSize(1280, 800))
    window.go_to(0)
    answers, jobs = window.cases.answers, window.acts.jobs
    window.cases.variables.view.show_variables({"minutes"})
    made = []
    for number, name in ((1, "gaps"), (2, "outliers"), (3, "close-up"), (4, "correlations")):
        answers.show_tab(number)
        wait_for(lambda: not any(jobs.busy(job) for job in _JOBS), name)
        made.append(TARGET / f"cases-{name}.png")
        window.grab().save(str(made[-1]))
    window.acts.finish()
    window.hide()
    return made


if __name__ == "__main__":
    main()
