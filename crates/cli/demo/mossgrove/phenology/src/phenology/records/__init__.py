from .note import Note
from .season import Season
