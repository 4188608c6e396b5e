"""Where the program starts: quiet when it is interrupted while it still imports."""

from __future__ import annotations

import signal

__all__ = ["main"]


def main() -> None:
    """Run the command line."""
    usual = signal.signal(signal.SIGINT, signal.SIG_DFL)  # nothing is under way yet: just end
    from wraithon import cli

    signal.signal(signal.SIGINT, usual)
    cli.main()


if __name__ == "__main__":
    main()
