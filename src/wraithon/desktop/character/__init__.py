"""The Character station."""
