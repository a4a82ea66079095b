"""Makes online.csv: an online questionnaire of the Tarn Valley mobile library, as it is exported.

Answers are words, several stand in one cell, numbers wear signs, a title stands above the header.
Everything is drawn from a seeded generator; nothing is copied from anywhere.

    python demo/make_online.py
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

HERE = Path(__file__).parent
SEED, COUNT = 20_411, 400
TITLE = "Tarn Valley mobile library: what do you think of the bus? Spring 2026"
AGREE = ("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
OFTEN = ("Never", "Rarely", "Sometimes", "Often", "Always")
AGES = ("under 18", "18-29", "30-44", "45-59", "60-74", "75+")
THINGS = ("Novels", "Audio books", "Large print", "Films", "Picture books")
STATEMENTS = (
    "I come for the people on board", "I like to sit down and read", "I tell others about the bus",
    "I am in and out within minutes",
)  # fmt: skip
HEADER = (
    "Answer no.", "Finished on", "How old are you?", *STATEMENTS, "How often do you order ahead?",
    "Which things do you borrow? (tick all)", "Yearly household income",
    "Share of loans you read to the end", "Do you use the app?", "What could be better?",
)  # fmt: skip
WISHES = (
    "", "", "", "", "Longer hours", "More new novels please", "A stop by the school",
    "Nothing, it is fine; thank you!", "A seat, and a warmer one", "More films",
)  # fmt: skip


@dataclass(frozen=True)
class Visitor:
    """A planted type.

    Its share; means of the statements, of ordering ahead (1 to 5), of age band; chances of each of
    THINGS; income and share read; chance to use the app.
    """

    share: float
    statements: tuple[float, float, float, float]
    ahead: float
    age: float
    things: tuple[float, float, float, float, float]
    income: float
    read: float
    app: float


VISITORS = (
    Visitor(0.34, (4.6, 4.3, 4.2, 1.6), 1.7, 4.3, (0.9, 0.2, 0.6, 0.1, 0.05), 24_000, 0.85, 0.1),
    Visitor(0.29, (2.0, 1.5, 2.6, 4.6), 4.4, 1.6, (0.7, 0.5, 0.0, 0.5, 0.05), 41_000, 0.6, 0.95),
    Visitor(0.26, (3.8, 2.2, 4.4, 2.6), 2.6, 2.2, (0.4, 0.3, 0.0, 0.6, 0.95), 33_000, 0.45, 0.5),
)


def _row(rng: np.random.Generator, kind: Visitor) -> list[str]:
    def word(words: tuple[str, ...], mean: float, sd: float) -> str:
        return words[int(np.clip(np.rint(rng.normal(mean, sd)), 1, len(words))) - 1]

    things = [name for name, p in zip(THINGS, kind.things, strict=True) if rng.random() < p]
    if rng.random() < 0.05:
        things.append(f"Other: {rng.choice(['maps', 'board games', 'jigsaws'])}")
    income = f"€{round(kind.income * rng.lognormal(0, 0.28) / 10) * 10:,}"
    read = 5 * round(float(np.clip(rng.normal(kind.read, 0.12), 0, 1)) * 20)
    return [
        word(AGES, kind.age + 1, 0.8), *(word(AGREE, mean, 0.6) for mean in kind.statements),
        word(OFTEN, kind.ahead, 0.6), "; ".join(things), income, f"{read} %",
        "Yes" if rng.random() < kind.app else "No", str(rng.choice(WISHES)),
    ]  # fmt: skip


def _unsaid(rng: np.random.Generator, row: list[str]) -> None:
    """Some answers are refused or not known, some are not there."""
    if rng.random() < 0.06:
        row[7] = "Prefer not to say"
    if rng.random() < 0.03:
        row[0] = "Prefer not to say"
    if rng.random() < 0.05:
        row[int(rng.integers(1, 5))] = str(rng.choice(["Don't know", ""]))


def rows(count: int = COUNT, seed: int = SEED) -> list[list[str]]:
    """So many answers, in the order in which they came in."""
    rng = np.random.default_rng(seed)
    sizes = [round(kind.share * count) for kind in VISITORS]
    anybody = Visitor(0, (3, 3, 3, 3), 3, 2.5, (0.5,) * 5, 32_000, 0.6, 0.5)
    out = [_row(rng, kind) for kind, size in zip(VISITORS, sizes, strict=True) for _ in range(size)]
    out += [_row(rng, anybody) for _ in range(count - len(out))]
    out = [out[k] for k in rng.permutation(count)]
    moment = datetime(2026, 3, 2, 8, 0)
    for number, row in enumerate(out, 1):
        _unsaid(rng, row)
        moment += timedelta(minutes=float(rng.exponential(70)))
        row[:0] = [str(1000 + number), moment.strftime("%Y-%m-%d %H:%M")]
    return out


def main() -> None:
    """Write the file beside this script."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    text.write(f"{TITLE}\n\n")
    writer.writerow(HEADER)
    writer.writerows(rows())
    (HERE / "online.csv").write_text(text.getvalue(), encoding="utf-8")


if __name__ == "__main__":
    main()
