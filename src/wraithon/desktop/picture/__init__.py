"""The picture, and what the mouse can do in it."""
