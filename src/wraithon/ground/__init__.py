"""The stage's ground: its looks, and its heights and kinds."""
