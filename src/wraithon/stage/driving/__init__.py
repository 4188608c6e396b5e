"""The character driven by hand: what it does, step by step, and the pose that makes."""
