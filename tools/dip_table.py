"""Works out the table of `gorvel.core.count.null.dip`: quantiles of the dip of even noise.

    python tools/dip_table.py [replicates]

Prints, for each number of values, the quantiles of sqrt(n) times the dip.
"""

from __future__ import annotations

import sys

import numpy as np

from gorvel.core.count.null.dip import LEVELS, TABLE, dip


def main() -> None:
    """Print the table."""
    replicates = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    random = np.random.default_rng(1985)
    for n in TABLE:
        found = [np.sqrt(n) * dip(random.uniform(size=n)) for _ in range(replicates)]
        quantiles = np.quantile(found, 1 - np.array(LEVELS))
        print(f"    {n}: ({', '.join(f'{q:.4f}' for q in quantiles)}),", flush=True)


if __name__ == "__main__":
    main()
