"""From moments to what is done: what happens, which triggers hear it, and what their responses do."""
