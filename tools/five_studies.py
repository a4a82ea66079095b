"""Five made-up studies like those of a working week, with the faults that real exports have.

python tools/five_studies.py DIRECTORY    writes them there, each with its plan, always the same

survey : an online export of 1,500 respondents, 45 columns, answers in words;
panel : two waves in two sheets of a workbook;
matrix : proximities of 60 words, as a square table;
regions : 20 regions by 30 indicators, with footnotes in cells;
clinic : 800 patients by 40 symptoms (yes or no), with weights, strata and sampling units.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl

SCALE = ["Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree"]
Random = np.random.Generator


def main(directory: Path) -> None:
    """All of them into a directory, which is made where it is not there."""
    directory.mkdir(parents=True, exist_ok=True)
    for number, write in enumerate(STUDIES.values(), 1):
        write(np.random.default_rng(number), directory)


def _items(random: Random, own: np.ndarray, items: int) -> np.ndarray:
    """(n, items) answers 1 to 5 that go by the group of each case."""
    centres = random.uniform(1.2, 4.8, (own.max() + 1, items))
    return np.clip(np.rint(centres[own] + random.normal(0, 0.7, (len(own), items))), 1, 5)


def survey(random: Random, directory: Path) -> None:
    """Status rows that are no respondents, words with a slip, codes for no answer, an empty row."""
    n, items = 1500, 30
    answers = _items(random, random.integers(0, 4, n), items).astype(int)
    columns: dict[str, list[str | None]] = {"Response id": [f"R_{k:05}" for k in range(n)]}
    columns["Status"] = ["Preview" if k < 2 else "IP Address" for k in range(n)]
    columns["Duration (seconds)"] = [str(k) for k in random.integers(90, 2400, n)]
    columns["Finished"] = [str(k) for k in random.random(n) < 0.97]
    for item in range(items):
        words = [SCALE[k - 1] for k in answers[:, item]]
        for row in random.choice(n, 9, replace=False):
            words[row] = ""
        columns[f"Q{item + 1}"] = [word or None for word in words]
    columns["Q3"][5] = "Stongly agree"
    columns["Recommend (0-10)"] = [str(k) for k in random.integers(0, 11, n)]
    columns["Household income"] = [f"€{k:,}" for k in random.integers(12, 90, n) * 1000]
    columns["Age"] = [str(k) if k > 19 else "prefer not to say" for k in random.integers(18, 90, n)]
    for more in range(8):
        columns[f"Note {more + 1}"] = [None] * n
    frame = pl.DataFrame(columns, schema=dict.fromkeys(columns, pl.String))
    frame.write_csv(directory / "survey.csv")
    use = ", ".join(f'"q{item + 1}"' for item in range(items))
    made = "\n".join(
        f'[[make]]\nname = "q{item + 1}"\nfrom = "Q{item + 1}"\norder = {SCALE}\n'
        for item in range(items)
    )  # fmt: skip
    _plan(
        directory,
        "survey",
        f"""[cases]
label = "Response id"
keep = 'Status = "IP Address"'

[variables]
use = [{use}]
missing = {{ Q3 = ["Stongly agree"] }}

{made}""",
    )


def panel(random: Random, directory: Path) -> None:
    """Two waves of 300, most of them the same people."""
    own = random.integers(0, 3, 300)
    centres = random.uniform(2, 8, (3, 8))
    book = {}
    for wave in ("2025", "2026"):
        values = np.rint(centres[own] + random.normal(0, 1, (300, 8)))
        people = [f"P{k:03}" for k in range(300)] if wave == "2025" else [
            f"P{k:03}" if k < 240 else f"N{k:03}" for k in range(300)]  # fmt: skip
        book[wave] = pl.DataFrame(
            {"person": people} | {f"i{k + 1}": values[:, k] for k in range(8)}
        )
    import xlsxwriter

    with xlsxwriter.Workbook(str(directory / "panel.xlsx")) as workbook:
        for wave, frame in book.items():
            frame.write_excel(workbook, wave)
    book["2026"].write_csv(directory / "panel-2026.csv")
    use = ", ".join(f'"i{k + 1}"' for k in range(8))
    _plan(directory, "panel", f'''[cases]
label = "person"

[variables]
use = [{use}]

[assign]
file = "panel-2026.csv"
''', 'file = "panel.xlsx"\nsheet = "2025"')  # fmt: skip


def matrix(random: Random, directory: Path) -> None:
    """Dissimilarities of words, from how often people sorted them apart."""
    places = random.normal(size=(60, 3)) + 4 * random.integers(0, 2, (60, 3))
    far = np.sqrt(((places[:, None] - places[None]) ** 2).sum(axis=2)).round(3)
    names = [f"word {k + 1}" for k in range(60)]
    frame = pl.DataFrame({"": names} | {name: far[:, k] for k, name in enumerate(names)})
    frame.write_csv(directory / "matrix.csv")
    _plan(directory, "matrix", '''[tree]
linkage = "average"
''', 'file = "matrix.csv"\nkind = "proximities"')  # fmt: skip


def regions(random: Random, directory: Path) -> None:
    """Few cases and many columns; some cells have a footnote."""
    values = random.normal(50, 12, (20, 30)) + 15 * random.integers(0, 3, 20)[:, None]
    cells = [[f"{value:.1f}" for value in row] for row in values]
    for row, column in zip(range(0, 20, 4), range(0, 30, 6), strict=True):
        cells[row][column] += " (e)"
    names = [f"Indicator {k + 1}" for k in range(30)]
    columns = {"region": [f"The United Valleys of Upper Number {k + 1}" for k in range(20)]}
    columns |= {name: [row[k] for row in cells] for k, name in enumerate(names)}
    pl.DataFrame(columns).write_csv(directory / "regions.csv")
    marked = {names[k] for k in range(0, 30, 6)}
    made = "\n".join(
        f'[[make]]\nname = "n {k}"\nfrom = "{k}"\nnumber = true\n' for k in sorted(marked)
    )
    use = ", ".join(f'"n {name}"' if name in marked else f'"{name}"' for name in names)
    _plan(
        directory, "regions", f'[cases]\nlabel = "region"\n\n[variables]\nuse = [{use}]\n\n{made}'
    )


def clinic(random: Random, directory: Path) -> None:
    """Yes and no as words, unequal weights, and segments in strata."""
    own = random.integers(0, 4, 800)
    shares = random.beta(0.6, 0.9, (4, 40))
    yes = random.random((800, 40)) < shares[own]
    columns: dict[str, list[str]] = {"patient": [f"C{k:04}" for k in range(800)]}
    columns["weight"] = [f"{w:.3f}" for w in random.uniform(0.4, 2.5, 800)]
    columns["stratum"] = [f"district {k % 5 + 1}" for k in range(800)]
    columns["segment"] = [f"{k % 5 + 1}{k // 5 % 12 + 1:02}" for k in range(800)]
    columns |= {f"s{k + 1}": ["yes" if y else "no" for y in yes[:, k]] for k in range(40)}
    pl.DataFrame(columns).write_csv(directory / "clinic.csv")
    use = ", ".join(f'"s{k + 1}"' for k in range(40))
    _plan(directory, "clinic", f'''[cases]
label = "patient"
weight = "weight"

[design]
strata = "stratum"
psu = "segment"

[variables]
use = [{use}]

[scale]
method = "none"

[proximity]
measure = "simple-matching"

[tree]
linkage = "average"
''')  # fmt: skip


def _plan(directory: Path, name: str, rest: str, source: str = "") -> None:
    """A plan that is cut at four clusters, and asks how many there are."""
    text = f"gorvel = 1\n\n[source]\n{source or f'file = {chr(34)}{name}.csv{chr(34)}'}\n\n{rest}\n"
    text += '\n[cut]\ncounts = [4]\n\n[count]\nto = 8\nresamples = 19\nchecks = ["groups"]\n'
    (directory / f"{name}.toml").write_text(text, encoding="utf-8")


STUDIES: dict[str, Callable[[Random, Path], None]] = {
    "survey": survey, "panel": panel, "matrix": matrix, "regions": regions, "clinic": clinic,
}  # fmt: skip

if __name__ == "__main__":
    main(Path(sys.argv[1]))
