"""Makes the demo data: the Tarn Valley mobile library, a made-up reader survey.

Everything is drawn from a seeded generator; nothing is copied from anywhere.

    python demo/make_data.py                      writes readers.csv, stops.csv, services.csv
    python demo/make_data.py --large 20000        writes readers_large.csv.gz with so many readers
"""

from __future__ import annotations

import argparse
import csv
import gzip
import io
from dataclasses import dataclass
from pathlib import Path

import numpy as np

HERE = Path(__file__).parent
SEED = 20_407
STOPS = ("Alder Bridge", "Birch Lane", "Cove Green", "Dene Cross", "Elm Mill", "Fell End")
HOUSEHOLDS = ("alone", "couple", "family", "shared")
COLUMNS = (
    *("reader_id", "stop", "household", "age", "visits", "loans", "renewals", "minutes"),
    *("travel_km", "choice", "quiet", "staff", "hours", "events_pull", "uses_app", "borrows_audio"),
    *("borrows_large_print", "attends_events", "weight", "known_type"),
)
ANSWERS = COLUMNS[4:18]
RATINGS = ("choice", "quiet", "staff", "hours", "events_pull")


@dataclass(frozen=True)
class ReaderType:
    """A planted type: its share, and what its readers are like.

    rates are means of counts; ratings are means on 1 to 5 in the order of RATINGS;
    chances are of yes in the order app, audio, large print, events.
    """

    name: str
    share: float
    age: tuple[float, float]
    visits: float
    loans_per_visit: float
    minutes: float
    travel_km: float
    ratings: tuple[float, float, float, float, float]
    chances: tuple[float, float, float, float]
    households: tuple[float, float, float, float]


TYPES = (
    ReaderType("story-time families", 0.28, (36, 5), 11, 4.2, 34, 2.2,
               (4.1, 1.7, 4.4, 2.6, 4.7), (0.55, 0.35, 0.02, 0.95), (0.0, 0.05, 0.92, 0.03)),
    ReaderType("quiet regulars", 0.23, (68, 7), 18, 1.4, 62, 1.1,
               (3.0, 4.7, 4.6, 3.6, 1.9), (0.06, 0.12, 0.62, 0.18), (0.55, 0.43, 0.0, 0.02)),
    ReaderType("app borrowers", 0.16, (29, 5), 4, 3.4, 7, 4.6,
               (4.4, 2.3, 2.8, 1.7, 1.6), (0.97, 0.66, 0.0, 0.08), (0.35, 0.3, 0.05, 0.3)),
    ReaderType("local researchers", 0.09, (55, 9), 13, 6.8, 118, 7.5,
               (1.6, 4.4, 3.9, 1.9, 2.9), (0.5, 0.05, 0.1, 0.4), (0.4, 0.5, 0.1, 0.0)),
)  # fmt: skip
STRUNG_OUT = "now-and-then readers"  # a long, thin group: from nearly never to nearly weekly
NOISE = "no type"


def _rating(rng: np.random.Generator, mean: float) -> int:
    return int(np.clip(np.rint(rng.normal(mean, 0.62)), 1, 5))


def _typed(rng: np.random.Generator, kind: ReaderType) -> dict[str, object]:
    visits = max(1, int(rng.normal(kind.visits, 0.18 * kind.visits + 0.8)))
    loans = int(rng.poisson(visits * kind.loans_per_visit * rng.uniform(0.8, 1.2)))
    yes = rng.random(4) < kind.chances
    return {
        "household": rng.choice(HOUSEHOLDS, p=kind.households),
        "age": int(np.clip(rng.normal(*kind.age), 16, 94)),
        "visits": visits,
        "loans": loans,
        "minutes": round(float(kind.minutes * rng.lognormal(0, 0.32)), 1),
        "travel_km": round(float(kind.travel_km * rng.lognormal(0, 0.3)), 1),
        **{name: _rating(rng, mean) for name, mean in zip(RATINGS, kind.ratings, strict=True)},
        "uses_app": yes[0],
        "borrows_audio": yes[1],
        "borrows_large_print": yes[2],
        "attends_events": yes[3],
    }


def _strung_out(rng: np.random.Generator, along: float) -> dict[str, object]:
    """One of a chain of readers; `along` runs from 0 (nearly never) to 1 (nearly weekly)."""
    row = _typed(rng, TYPES[2])
    visits = max(1, round(1 + 9 * along + rng.normal(0, 0.4)))
    row |= {
        "household": rng.choice(HOUSEHOLDS),
        "age": int(np.clip(rng.normal(47, 13), 16, 94)),
        "visits": visits,
        "loans": max(0, int(visits * (1.0 + along) + rng.normal(0, 0.6))),
        "minutes": round(float((9 + 24 * along) * rng.lognormal(0, 0.15)), 1),
        "travel_km": round(float(2.4 + 2 * along + rng.normal(0, 0.3)), 1),
        "choice": _rating(rng, 3.2), "quiet": _rating(rng, 2.6 + along),
        "staff": _rating(rng, 3.2 + along), "hours": _rating(rng, 3.9),
        "events_pull": _rating(rng, 1.4 + 1.6 * along),
        "uses_app": rng.random() < 0.2, "borrows_audio": rng.random() < 0.15,
        "borrows_large_print": rng.random() < 0.05, "attends_events": rng.random() < 0.15 * along,
    }  # fmt: skip
    return row


def _noise(rng: np.random.Generator) -> dict[str, object]:
    visits = int(rng.integers(1, 26))
    return {
        "household": rng.choice(HOUSEHOLDS),
        "age": int(rng.integers(17, 92)),
        "visits": visits,
        "loans": int(rng.integers(0, 70)),
        "minutes": round(float(rng.lognormal(3.9, 1.1)), 1),
        "travel_km": round(float(rng.uniform(0.2, 19)), 1),
        **{name: int(rng.integers(1, 6)) for name in RATINGS},
        **{name: rng.random() < 0.5 for name in ANSWERS[10:]},
    }


def _gaps(rng: np.random.Generator, rows: list[dict[str, object]]) -> None:
    """About 4 % of the answers go missing, most of them from readers who broke off."""
    for row in rows:
        if rng.random() < 0.085:
            for name in ANSWERS[int(rng.integers(6, 10)) :]:
                row[name] = ""
        elif rng.random() < 0.06:
            name = str(rng.choice([*RATINGS, "minutes", "travel_km"]))
            row[name] = str(rng.choice(["98", "99"])) if name in RATINGS else ""


def readers(count: int, seed: int = SEED) -> list[dict[str, object]]:
    """So many readers, in the order in which they came to the bus."""
    rng = np.random.default_rng(seed)
    sizes = [round(kind.share * count) for kind in TYPES]
    noise = round(0.05 * count)
    chain = count - sum(sizes) - noise
    rows: list[dict[str, object]] = []
    for kind, size in zip(TYPES, sizes, strict=True):
        rows += [_typed(rng, kind) | {"known_type": kind.name} for _ in range(size)]
    rows += [
        _strung_out(rng, k / max(chain - 1, 1)) | {"known_type": STRUNG_OUT} for k in range(chain)
    ]
    rows += [_noise(rng) | {"known_type": NOISE} for _ in range(noise)]
    rows = [rows[k] for k in rng.permutation(len(rows))]
    width = max(3, len(str(count)))
    for number, row in enumerate(rows, 1):
        row["reader_id"] = f"R{number:0{width}d}"
        row["stop"] = rng.choice(STOPS, p=(0.24, 0.13, 0.2, 0.11, 0.18, 0.14))
        row["renewals"] = max(0, round(0.5 * float(str(row["loans"])) + rng.normal(0, 0.9)))
        row["weight"] = round(float(np.clip(rng.lognormal(-0.05, 0.32), 0.35, 2.8)), 2)
        for name in ANSWERS[10:]:
            row[name] = "yes" if row[name] else "no"
    _gaps(rng, rows)
    return rows


VILLAGES = (
    *("Ashcombe", "Barrow Foot", "Calder Row", "Dunnock", "Eskwith", "Farrow", "Gillbeck"),
    *("Harrowby", "Inchfold", "Jessop", "Kelderby", "Lowthwaite", "Marl Pit", "Netherby"),
    *("Oxgang", "Pinfold", "Quernstone", "Ravenhow", "Scarside", "Thornbeck", "Uldale Row"),
    "Wharfend",
)


def villages(seed: int = SEED) -> list[dict[str, object]]:
    """Each village's readers and the share who gave each answer."""
    rng = np.random.default_rng(seed + 1)
    centres = ((0.62, 0.2, 0.31, 0.55), (0.25, 0.58, 0.22, 0.18), (0.35, 0.3, 0.7, 0.34))
    rows: list[dict[str, object]] = []
    for place, name in enumerate(VILLAGES):
        base = int(rng.integers(14, 160))
        shares = np.clip(rng.normal(centres[(place * 5) % 3], 0.05), 0.02, 0.97)
        names = ("weekly", "large_print", "by_app", "with_children")
        rows.append(
            {"village": name, "readers": base}
            | {key: f"{share:.3f}" for key, share in zip(names, shares, strict=True)}
            | {"mean_km": f"{rng.gamma(4, 0.9) + (place * 5) % 3:.2f}"}
        )
    return rows


SERVICES = {
    "stock": ("New novels", "Crime shelf", "Large print", "Audio books", "Local history"),
    "children": ("Story time", "Picture books", "School boxes", "Holiday club"),
    "access": ("Home delivery", "Evening stop", "Book locker", "Request by phone"),
    "digital": ("App loans", "Film streaming", "Tablet help"),
}


def services(seed: int = SEED) -> list[list[str]]:
    """A card sort: of 40 readers, how many put two services on the same pile."""
    rng = np.random.default_rng(seed + 2)
    names = [name for group in SERVICES.values() for name in group]
    groups = [key for key, group in SERVICES.items() for _ in group]
    near = {("stock", "digital"): 0.22, ("access", "digital"): 0.3}
    rows = [["service", *names]]
    for i, name in enumerate(names):
        cells = [""] * len(names)
        for j in range(i):
            pair = (groups[j], groups[i])
            chance = 0.68 if pair[0] == pair[1] else near.get(pair, near.get(pair[::-1], 0.1))
            cells[j] = str(int(rng.binomial(40, chance)))
        rows.append([name, *cells])
    return rows


def _table(rows: list[dict[str, object]], columns: tuple[str, ...]) -> str:
    text = io.StringIO()
    writer = csv.DictWriter(text, columns, lineterminator="\n")
    writer.writeheader()
    writer.writerows(rows)
    return text.getvalue()


def main() -> None:
    """Write the files beside this script."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--large", type=int, metavar="N", help="only readers_large.csv.gz")
    large = parser.parse_args().large
    if large:
        with gzip.open(HERE / "readers_large.csv.gz", "wt", encoding="utf-8") as file:
            file.write(_table(readers(large), COLUMNS))
        return
    (HERE / "readers.csv").write_text(_table(readers(240), COLUMNS), encoding="utf-8")
    stops = villages()
    (HERE / "stops.csv").write_text(_table(stops, tuple(stops[0])), encoding="utf-8")
    text = io.StringIO()
    csv.writer(text, lineterminator="\n").writerows(services())
    (HERE / "services.csv").write_text(text.getvalue(), encoding="utf-8")


if __name__ == "__main__":
    main()
