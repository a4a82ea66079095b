"""All texts of the program in one file, `words.txt`, to be read through; and words it does not use.

`python tools/words.py` writes the file anew.
"""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path

import pytest

HERE = Path(__file__).parent
UNUSED = (  # of an earlier way of writing, each with the ordinary word in its place
    r"in hand",  # current
    r"voices?",  # votes
    r"take(n)? back",  # undo
    r"made way",  # was replaced
    r"code book",  # codebook
    r"interquartile distances?",  # interquartile ranges
    r"strength of (an )?effect",  # effect size
    r"that is no (number|study|file|tree)",  # is not a …
    r"everybody",
    r"be turned into",  # converted
    r"defect in Gorvel",  # internal error
)


def words() -> str:
    spec = importlib.util.spec_from_file_location("words", HERE.parent / "tools" / "words.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return str(module.all_texts())


def kept() -> str:
    """The file, which the next test holds to the program."""
    return (HERE / "words.txt").read_text(encoding="utf-8")


@pytest.mark.slow
def test_the_file_of_words_is_that_of_the_program() -> None:
    assert kept() == words(), "python tools/words.py"


@pytest.mark.parametrize("pattern", UNUSED)
def test_words_are_the_ordinary_ones(pattern: str) -> None:
    lines = [line for line in kept().splitlines() if line.startswith("  ")]
    assert not [line for line in lines if re.search(rf"\b{pattern}\b", line, re.IGNORECASE)]


def test_numbers_have_no_space_before_a_per_cent_sign() -> None:
    assert not re.findall(r".*[…\d] %.*", kept())
