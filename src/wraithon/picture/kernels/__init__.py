"""The compiled kernels of the picture, by what they do."""
