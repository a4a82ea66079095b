"""How long work tells where it is, and how it is stopped."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum


class Phase(Enum):
    """What long work is at, in words that go before a share and the time left."""

    READING = "Reading the file"
    RECOGNISING = "Checking the columns"
    SCREENING = "Scanning the columns"
    PROXIMITIES = "Computing proximities of all pairs"
    KERNELS = "Compiling loops for large studies (once)"
    LOADING = "Loading compiled loops"
    JOINS = "Joining the nearest clusters"
    TIES = "Ordering joins of one height"
    SCHEDULE = "Making the schedule"
    CORRELATION = "Computing the cophenetic correlation"
    ORDER = "Placing similar cases side by side"
    NEIGHBOURS = "Finding neighbours"
    PAIRS = "Processing all pairs"
    RANKS = "Sorting all distances"
    DENSITY = "Estimating densities"
    RESAMPLES = "Resampling"
    STRUCTURE = "Testing for structure"
    GROUPS = "Simulating data without groups"
    TRIAL = "Checking the verdict on simulated studies"
    PURPOSE = "Grouping cases at random"
    SPLITS = "Testing each split"
    SUPPORT = "Measuring the support of branches"
    ORDERS = "Growing trees with cases reordered"
    MAP = "Mapping the cases"
    TYPING = "Selecting the questions that separate clusters"
    SWEEP = "Growing trees of all combinations"
    KMEANS = "Running k-means from many starts"
    COMPARE = "Comparing two trees"
    UNTANGLE = "Untangling the trees"
    IMPUTE = "Imputing missing answers and growing each tree"
    DRIVERS = "Growing the tree without each variable"
    ASSIGN = "Assigning new cases"
    WRITING = "Writing the results"


# Called with the phase and the share of it that is done (0 to 1).
# It stops the work by raising `gorvel.core.base.errors.Cancelled`.
Progress = Callable[[Phase, float], None]

_SURE = 0.02, 0.3  # share done and seconds spent from which an estimate is worth something


def silent(phase: Phase, share: float) -> None:
    """Progress that nobody watches."""


@dataclass(eq=False)
class Stage:
    """Progress over many trees, which tells where it was while one of them grows.

    phase : what is told; growing a tree reports here, so that it can be stopped.
    """

    progress: Progress
    phase: Phase
    share: float = 0.0

    def tell(self, share: float) -> None:
        """So much is done."""
        self.share = min(share, 1.0)
        self.progress(self.phase, self.share)

    def while_growing(self, phase: Phase, share: float) -> None:
        """A tree is being grown: still where it was."""
        self.progress(self.phase, self.share)


def seconds_left(spent: float, share: float) -> float:
    """Of a phase that went on for some seconds; below 0 when nobody can tell yet."""
    least, patience = _SURE
    return spent * (1 - share) / share if share > least and spent > patience else -1.0


def progress_words(phase: Phase, share: float, left: float) -> str:
    """Where long work is; left : see `seconds_left`."""
    time_left = f", about {max(1, round(left))} s left" if left >= 0 else ""
    return f"{phase.value}: {share:.0%}{time_left}"
