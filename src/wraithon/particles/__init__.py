"""Particles: chance, emission, life, motion, and the kernels that run them."""
