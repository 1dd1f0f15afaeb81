"""The engine: a recipe compiled to a few kinds of operation, run row by row in one pass over the pixels."""
