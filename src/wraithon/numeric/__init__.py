"""Numbers: compiled kernels, vectors, noise and chance."""
