"""Makes the pictures in docs/screenshots/ from the demo data.

QT_QPA_PLATFORM=offscreen PYTHONPATH=src .venv/bin/python tools/make_screenshots.py
"""

from __future__ import annotations

from pathlib import Path

from gorvel.desk.pictures import picture_pages

ROOT = Path(__file__).parents[1]


def main() -> None:
    """One picture of each page in light, and of the tree in dark."""
    target = ROOT / "docs" / "screenshots"
    target.mkdir(parents=True, exist_ok=True)
    plan = ROOT / "demo" / "readers.toml"
    for path in picture_pages(plan, target):
        print(path.relative_to(ROOT))
    for path in picture_pages(plan, target, "dark", suffix="-dark"):
        if path.stem == "tree-dark":
            print(path.relative_to(ROOT))
        else:
            path.unlink()


if __name__ == "__main__":
    main()
