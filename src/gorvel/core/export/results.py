"""Everything a run writes for one tree."""

from __future__ import annotations

import csv
import re
import resource
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from gorvel import __version__
from gorvel.core.base.errors import Caution
from gorvel.core.base.progress import Phase, Progress, silent
from gorvel.core.base.writing import check_room
from gorvel.core.export.count import Counted, choice, write_counting
from gorvel.core.export.files import write_csv, write_json
from gorvel.core.export.newick import newick
from gorvel.core.export.profile import Portraits, left_out, write_profiles
from gorvel.core.export.tables import membership_columns, order_columns
from gorvel.core.grow.allocation import Placed
from gorvel.core.grow.grown import Grown, timed, wanted_branches, wanted_counts
from gorvel.core.plan.plan import Plan
from gorvel.core.results.tree import schedule_columns
from gorvel.core.tree.cuts import Cut, cut_at_count, cut_at_height
from gorvel.core.words.conclusion import count_cautions

_CELL_BYTES = 8  # on the disk, of a proximity, at the least
_CELLS = 1 << 18  # of the matrix written at a time
MATRIX_LIMIT = 2000  # cases above which proximity.csv is written only when asked for


def height_name(height: float) -> str:
    """The column of a cut by height: the shortest text that reads back exactly."""
    text = repr(float(height))
    return "h" + text.removesuffix(".0")


def safe_name(value: str, taken: Sequence[str] = ()) -> str:
    """A group's value as the name of a directory, different from those taken."""
    name = re.sub(r"[^\w.-]+", "_", value).strip("._") or "_"
    out, number = name, 2
    while out.lower() in {other.lower() for other in taken}:
        out, number = f"{name}_{number}", number + 1
    return out


def write_results(
    grown: Grown,
    plan: Plan,
    all_labels: Sequence[str],
    numbers: Sequence[int],
    directory: Path,
    cophenetic: float | None,
    matrix: bool = False,
    placed: Placed | None = None,
    counted: Counted | None = None,
    portrayed: Portraits | None = None,
    progress: Progress = silent,
    pairs: bool = True,
    more: Sequence[Caution] = (),
) -> dict[str, Any]:
    """Write all files of one tree into a directory; returns the summary.

    Parameters
    ----------
    plan : with the cuts that are wanted.
    all_labels, numbers : of every row that was read, dropped ones too.
    cophenetic : correlation, None where not defined;
    matrix : write proximity.csv above `MATRIX_LIMIT` cases as well;
    placed : cases set aside that are given clusters; counted : what was found
        about the count; portrayed : what clusters are told by;
    progress : told "writing"; may raise to stop; pairs : write proximity.csv;
    more : cautions beside those of the tree.
    """
    tree, labels = grown.tree, grown.prepared.labels
    cuts: dict[str, Cut] = {
        f"k{count}": cut_at_count(tree, count) for count in wanted_counts(plan, tree.n)
    }
    for height in plan.cut.heights:
        cuts[height_name(height)] = cut_at_height(tree, height)
    for number, cut in enumerate(wanted_branches(plan, tree), 1):
        cuts[f"branches{number}"] = cut
    directory.mkdir(exist_ok=True)
    progress(Phase.WRITING, 0.0)
    write_csv(schedule_columns(grown), directory / "schedule.csv")
    progress(Phase.WRITING, 0.2)
    columns = membership_columns(grown, all_labels, numbers, cuts, placed)
    write_csv(columns, directory / "membership.csv")
    progress(Phase.WRITING, 0.4)
    write_csv(order_columns(grown), directory / "order.csv")
    if pairs and (matrix or tree.n <= MATRIX_LIMIT):
        _write_matrix(grown, directory / "proximity.csv", progress)
    progress(Phase.WRITING, 0.9)
    (directory / "tree.nwk").write_text(newick(tree, labels) + "\n", encoding="utf-8")
    if counted is not None:
        write_counting(counted, grown, plan.counting, wanted_counts(plan, tree.n), directory)
    cautions = (*grown.cautions, *more)
    if counted is not None:
        cautions += count_cautions(counted.board, counted.checks.groups, plan.counting)
    saved, beside = wanted_counts(plan, tree.n), {}
    if portrayed is not None and saved:
        with timed(grown.seconds, "profiles"):
            beside = write_profiles(portrayed, grown, plan, saved, directory, progress)
        cautions += portrayed.cautions + left_out(grown, saved)
    told = summary(grown, plan, cophenetic, cautions) | beside
    if counted is not None:
        found = choice(counted.board, plan.counting, counted.checks.groups)
        told["verdict"] = found["verdict"]["sentence"]
    write_json(told, directory / "summary.json")
    return told


def _write_matrix(grown: Grown, path: Path, progress: Progress) -> None:
    """Some rows at a time, so that a matrix that was not kept takes no memory."""
    labels, n = grown.prepared.labels, grown.tree.n
    step = max(1, _CELLS // n)
    check_room(path.parent, _CELL_BYTES * n * n)
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["label", *labels])
        for begin in range(0, n, step):
            progress(Phase.WRITING, 0.4 + 0.5 * begin / n)
            rows = np.arange(begin, min(begin + step, n))
            block = grown.pairs.block(rows, np.arange(n))
            cells = pl.Series(block.ravel()).cast(pl.String).to_list()  # reads back exactly
            for k, row in enumerate(rows.tolist()):
                writer.writerow([labels[row], *cells[k * n : (k + 1) * n]])


def summary(
    grown: Grown, plan: Plan, cophenetic: float | None, cautions: Sequence[Caution]
) -> dict[str, Any]:
    """What summary.json holds. cophenetic : correlation, None where not defined."""
    prepared, tree = grown.prepared, grown.tree
    return {
        "gorvel": __version__,
        "plan": plan.understood(),
        "cases": {
            "read": prepared.read,
            "kept": prepared.read - len(prepared.dropped),
            "dropped": [
                {"case": d.case, "label": d.label, "reason": d.reason} for d in prepared.dropped
            ],
        },
        "cophenetic_correlation": cophenetic,
        "agglomerative_coefficient": grown.agglomerative,
        **({"divisive_coefficient": grown.divisive} if grown.from_the_top else {}),
        "inversions": int(tree.inversions.sum()),
        "ties": int(tree.tied.sum()),
        "ties_that_matter": int(tree.tie_matters.sum()),
        "cautions": [{"code": c.code, "text": c.text} for c in cautions],
        "seconds": {phase: round(took, 6) for phase, took in grown.seconds.items()},
        "peak_memory_mb": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, 1),
    }
