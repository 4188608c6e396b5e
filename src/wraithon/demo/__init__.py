"""The demo: Halcyon, a storm dancer, and the effects that go with her. All of it is made by code here."""

from pathlib import Path

__all__ = ["DEMO_FOLDER"]

DEMO_FOLDER = Path(__file__).parent / "halcyon"
"""The demo project, as `python -m wraithon.demo.make` writes it."""
