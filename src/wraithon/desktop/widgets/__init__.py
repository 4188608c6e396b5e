"""Widgets and forms that all stations share."""
