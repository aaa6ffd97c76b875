"""Notes on what flowers when."""

from .records import Note, Season

__all__ = ["Note", "Season"]
