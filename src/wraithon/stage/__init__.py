"""The stage: performance, triggers, the running show, and the player over all of it."""
