"""The demo: Halcyon, a storm dancer, and the effects that go with her. `scripts/demo_maker` makes it all."""

from pathlib import Path

__all__ = ["DEMO_FOLDER"]

DEMO_FOLDER = Path(__file__).parent / "halcyon"
"""The demo project, as `make character` writes it."""
