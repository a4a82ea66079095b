"""What does not go together in a plan."""

from __future__ import annotations

from dataclasses import dataclass

from gorvel.core.base.errors import InputError


@dataclass(frozen=True)
class Misfit:
    """Something in a plan that does not go with the rest of it.

    where : table and key; found, expected : in words; said : as a sentence for somebody who makes
    the choice and sees no file; unfinished : something is still to be chosen, nothing contradicts
    another thing.
    """

    where: str
    found: str
    expected: str
    said: str = ""
    unfinished: bool = False

    def error(self, file: str = "plan") -> InputError:
        """The same as it is told."""
        return InputError(
            self.found, self.expected, place=self.where, file=file, said=self.sentence
        )

    @property
    def sentence(self) -> str:
        """What is wrong, for somebody who sees no file."""
        return self.said or f"{self.where}: {self.found}; expected {self.expected}."
