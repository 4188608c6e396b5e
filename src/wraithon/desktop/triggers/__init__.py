"""The Triggers station."""
