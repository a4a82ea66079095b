"""The command line without a window."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

from gorvel import __version__
from gorvel.cli.watching import watched
from gorvel.core.base.errors import InputError
from gorvel.core.base.numbers import counted
from gorvel.core.base.progress import Progress
from gorvel.core.run import Outcome, keep_study, run_plan, run_study
from gorvel.core.study.opening import is_study


class _Parser(argparse.ArgumentParser):
    """Says what is wrong with a call the way all our errors are said."""

    def error(self, message: str) -> NoReturn:
        raise InputError(message, f"see {self.prog} --help", place="command line")


def _place(told: str) -> Path:
    if not told:
        raise argparse.ArgumentTypeError("no name; see --help")
    return Path(told)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="gorvel",
        description="Agglomerative hierarchies of survey cases. No command: the window opens.",
        epilog="In the window: gorvel, gorvel open FILE, gorvel demo.",
        allow_abbrev=False,
    )
    parser.add_argument("--version", action="version", version=f"gorvel {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)
    run = commands.add_parser(
        "run", help="run a plan or a study and write the results", allow_abbrev=False
    )
    run.add_argument(
        "plan", metavar="PLAN.toml|STUDY.gorvel", type=Path, help="the plan or the study"
    )
    run.add_argument(
        "--out", metavar="DIR", type=_place, required=True, help="directory for the results"
    )
    run.add_argument(
        "--data", metavar="FILE", type=Path, help="data file to use instead of the plan's"
    )
    run.add_argument("--json", action="store_true", help="print the summary as JSON")
    run.add_argument(
        "--matrix", action="store_true", help="write proximity.csv above 2,000 cases as well"
    )
    study = commands.add_parser(
        "study", help="run a plan and save everything in one study file", allow_abbrev=False
    )
    study.add_argument("plan", metavar="PLAN.toml", type=Path, help="the plan to run")
    study.add_argument(
        "--out", metavar="FILE.gorvel", type=_place, required=True, help="the study's file"
    )
    study.add_argument(
        "--data", metavar="FILE", type=Path, help="data file to use instead of the plan's"
    )
    study.add_argument(
        "--force", action="store_true", help="overwrite FILE even if it is not a study"
    )
    return parser


def main(arguments: Sequence[str]) -> None:
    """Carry out one call.

    Raises
    ------
    GorvelError : see `run_plan`, `run_study`, `keep_study`; SystemExit after --help and --version.
    """
    asked = _parser().parse_args(arguments)
    if asked.command == "study":
        with watched() as progress:
            content = keep_study(asked.plan, asked.out, asked.data, asked.force, progress)
        trees = len(content.kept)
        print(f"saved {trees} tree{'' if trees == 1 else 's'} in {asked.out}")
        return
    with watched() as progress:
        outcome = _run(asked, progress)
    if asked.json:
        told = outcome.summaries
        json.dump(told.get("", told), sys.stdout, indent=2, ensure_ascii=False)
        print()
    else:
        _tell(outcome)


def _run(asked: argparse.Namespace, progress: Progress) -> Outcome:
    if not is_study(asked.plan):
        return run_plan(asked.plan, asked.out, asked.data, asked.matrix, progress)
    if asked.data is not None:
        raise InputError(
            "--data", "a study without --data: it has its own data", place="command line"
        )
    return run_study(asked.plan, asked.out, asked.matrix, progress)


def _tell(outcome: Outcome) -> None:
    for group, summary in outcome.summaries.items():
        cases = summary["cases"]
        print(
            f"{group + ': ' if group else ''}{cases['kept']:,} of {cases['read']:,} cases used, "
            f"{counted(summary['ties'], 'tie')}, {counted(summary['inversions'], 'inversion')}"
        )
        for caution in summary["cautions"]:
            print(f"  caution: {caution['text']}")
        if "verdict" in summary:
            print(f"  verdict: {summary['verdict']}")
    print(f"wrote {len(outcome.files)} files to {outcome.directory}:")
    for name in outcome.files:
        print(f"  {name}")
