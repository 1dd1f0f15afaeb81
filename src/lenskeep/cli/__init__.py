"""The command line: the whole job without a browser, along the same code path. Commands are listed in this order."""

from lenskeep.cli import shoots

# isort: split
from lenskeep.cli import bases, booking, checking, cleaning, evening, plain

# isort: split
from lenskeep.cli import keeping

# isort: split
from lenskeep.cli import serving
from lenskeep.cli.shared import app

__all__ = ["app", "bases", "booking", "checking", "cleaning", "evening", "keeping", "plain", "serving", "shoots"]
