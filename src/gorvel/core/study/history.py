"""Steps that can be taken back, each with the words that say what it was."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Generic, TypeVar

State = TypeVar("State")
_MOST_STEPS = 200


@dataclass
class History(Generic[State]):
    """A present state, the states before it, and those that were taken back.

    Every state is kept as it was: it has to be frozen.
    """

    now: State
    _before: list[tuple[str, State]] = field(default_factory=list)
    _after: list[tuple[str, State]] = field(default_factory=list)

    def step(self, state: State, words: str) -> None:
        """Go on to another state. words : what this did, to be read after "Take back"."""
        self._before.append((words, self.now))
        del self._before[:-_MOST_STEPS]
        self._after.clear()
        self.now = state

    @property
    def before(self) -> State | None:
        """The state that would be gone back to; None if there is none."""
        return self._before[-1][1] if self._before else None

    def step_anew(self, state: State, words: str) -> None:
        """The last step led elsewhere; one that led nowhere is none."""
        assert self._before
        _, before = self._before.pop()
        self.now = before
        if state != before:
            self.step(state, words)

    def amend(self, state: State) -> None:
        """Put another state in place of the present one: what changed is no step of its own."""
        self.now = state

    @property
    def to_undo(self) -> str:
        """What would be taken back, in words; empty if nothing."""
        return self._before[-1][0] if self._before else ""

    @property
    def to_redo(self) -> str:
        """What would be done again, in words; empty if nothing."""
        return self._after[-1][0] if self._after else ""

    def undo(self) -> bool:
        """Go back to the state before the last step; False if there is none."""
        return self._turn(self._before, self._after)

    def redo(self) -> bool:
        """Take the step taken back last once more; False if there is none."""
        return self._turn(self._after, self._before)

    def _turn(self, one: list[tuple[str, State]], other: list[tuple[str, State]]) -> bool:
        if not one:
            return False
        words, state = one.pop()
        other.append((words, self.now))
        self.now = state
        return True
