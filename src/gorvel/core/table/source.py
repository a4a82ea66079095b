"""What can be read: a table, or a matrix of proximities."""

from __future__ import annotations

from gorvel.core.table.matrix import ProximityTable
from gorvel.core.table.table import Table

Source = Table | ProximityTable  # both have a name, n rows and a reading
