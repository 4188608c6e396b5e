"""The score along the bottom."""
