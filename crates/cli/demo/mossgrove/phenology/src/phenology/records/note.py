from __future__ import annotations

from dataclasses import dataclass
from datetime import date


@dataclass
class Note:
    """One plant, one day, one stage."""

    taxon: str
    day: date
    stage: str
