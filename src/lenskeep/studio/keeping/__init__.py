"""Keeping a library safe: a copy of what can't be made again, brought back from it; a look at whether all is well.

A copy holds the database, the originals, the assets of recipes, and the masks that frames have, since later finders
would find others. Finished pictures are made again.
"""

from lenskeep.studio.keeping.backup import MARK, backup
from lenskeep.studio.keeping.restore import restore
from lenskeep.studio.keeping.verify import Report, verify

__all__ = ["MARK", "Report", "backup", "restore", "verify"]
