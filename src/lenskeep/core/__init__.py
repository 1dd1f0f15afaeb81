"""Numbers in, numbers out: no files, no database, no web, no clock."""
