from .ribbon import ribbon
