"""``python -m lenskeep.cli``."""

from lenskeep.cli import app

app()
