"""The timeline along the bottom."""
