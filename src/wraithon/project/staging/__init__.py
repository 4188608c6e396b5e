"""The stage as it is made: its ground, and how the character is driven over it."""
