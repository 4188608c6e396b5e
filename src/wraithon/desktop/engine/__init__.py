"""The engine thread, and what it and the window tell each other."""
