from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from phenology.records import Season


def ribbon(season: Season) -> str:
    """A line of the year, a mark for each day with a note."""
    days = {note.day.timetuple().tm_yday for note in season.notes}
    return "".join("#" if day in days else "." for day in range(1, 367))
