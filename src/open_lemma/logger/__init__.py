"""A simulated logger: the stand-in for an instrument that is read over a port."""
