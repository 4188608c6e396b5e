"""The Effects station."""
