"""An earlier commit of the project, checked out beside it, to compare with."""

from __future__ import annotations

import os
import subprocess
import tempfile
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator

__all__ = ["FIRST", "HERE", "earlier"]

FIRST = "119f004"
HERE = Path(__file__).resolve().parent.parent


@contextmanager
def earlier(commit: str) -> Iterator[Path]:
    """Check a commit out for a while; `WRAITHON_EARLIER` may name a folder that holds it already."""
    given = os.environ.get("WRAITHON_EARLIER")
    if given:
        yield Path(given)
        return
    with tempfile.TemporaryDirectory() as folder:
        tree, git = Path(folder) / "earlier", ["git", "-C", str(HERE), "worktree"]
        subprocess.run([*git, "add", "--detach", str(tree), commit], check=True, capture_output=True)
        try:
            yield tree
        finally:
            subprocess.run([*git, "remove", "--force", str(tree)], check=True, capture_output=True)
