"""Speed and mask quality; each part prints a table. Run all with `python -m benchmarks`."""
