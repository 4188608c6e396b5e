"""Where the program starts: quiet when it is interrupted while it still imports."""

from __future__ import annotations

import gc

from wraithon.support.interrupts import end_at_once

SELDOM = 50_000
"""New things after which to look for what nothing uses: nearly all that is made as a command starts stays."""


def main() -> None:
    """Run the command line."""
    gc.set_threshold(SELDOM)
    end_at_once()
    from wraithon import cli

    try:
        cli.main()
    finally:
        end_at_once()


if __name__ == "__main__":
    main()
