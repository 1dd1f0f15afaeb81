"""What the tests catch: faults that are planted one at a time, and whether a test sees each."""
