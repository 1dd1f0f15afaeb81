"""A frame's base: what is changed of its light before every step, as if the camera had been set otherwise."""
