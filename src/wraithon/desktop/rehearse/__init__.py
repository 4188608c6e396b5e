"""The Rehearse station: the character driven by hand, its signals, and the stage it goes over."""
