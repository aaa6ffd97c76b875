from .note import Note


class Season:
    """The notes of one year."""

    def __init__(self, year: int) -> None:
        self.year = year
        self.notes: list[Note] = []

    def first_bloom(self, taxon: str) -> Note | None:
        blooms = [note for note in self.notes if note.taxon == taxon and note.stage == "bloom"]
        return min(blooms, key=lambda note: note.day, default=None)

    def show(self) -> str:
        # The records should not know how they are drawn.
        from phenology.charts.ribbon import ribbon

        return ribbon(self)
