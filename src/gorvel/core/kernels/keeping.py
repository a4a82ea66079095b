"""What is compiled, on the disk: a file for each form of a kernel, with its sum.

The library's own way of keeping ends the program where a file is damaged (as after a power cut),
the disk is full, or nothing can be written at all. Here such a kernel is compiled once more.
"""

from __future__ import annotations

import inspect
import pickle
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import Any

from numba.core.caching import NullCache
from numba.core.compiler import CompileResult
from numba.core.serialize import dumps

from gorvel.core.base.errors import InputError
from gorvel.core.base.writing import replacing

_SUM = 32  # bytes, before what they are of
_lost: list[Path] = []  # what could not be written


def all_kept() -> bool:
    """Could all be written that this process compiled?"""
    return not _lost


@cache
def _sum_of(source: str) -> bytes:
    return sha256(Path(source).read_bytes()).digest()


class KernelFiles(NullCache):  # type: ignore[misc]
    """Where a kernel's compiled forms are kept, each for one kind of arguments and of processor."""

    def __init__(self, kernel: Callable[..., Any], folder: Path) -> None:
        self._folder = folder
        self._name = f"{Path(inspect.getfile(kernel)).stem}.{kernel.__name__}"
        self._source = _sum_of(inspect.getfile(kernel))

    @property
    def cache_path(self) -> str:
        """The directory."""
        return str(self._folder)

    def _path(self, signature: object, codegen: Any) -> Path:
        form = repr((self._name, str(signature), codegen.magic_tuple())).encode()
        return self._folder / f"{self._name}-{sha256(self._source + form).hexdigest()[:24]}"

    def load_overload(self, sig: object, target_context: Any) -> CompileResult | None:
        """What was compiled; None where that is not there, or not as it was written."""
        target_context.refresh()
        try:
            held = self._path(sig, target_context.codegen()).read_bytes()
        except OSError:
            return None
        if sha256(held[_SUM:]).digest() != held[:_SUM]:
            return None
        return CompileResult._rebuild(target_context, *pickle.loads(held[_SUM:]))

    def save_overload(self, sig: object, cres: CompileResult) -> None:
        """Keep what was compiled, where there is a place and room for it."""
        path, data = self._path(sig, cres.codegen), dumps(cres._reduce())
        try:
            with suppress(OSError):
                self._folder.mkdir(parents=True, exist_ok=True)
            with replacing(path) as part:
                part.write_bytes(sha256(data).digest() + data)
        except InputError:
            _lost.append(path)
