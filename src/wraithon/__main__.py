"""Where the program starts: quiet when it is interrupted while it still imports."""

from __future__ import annotations

from wraithon.support.interrupts import end_at_once


def main() -> None:
    """Run the command line."""
    end_at_once()
    from wraithon import cli

    try:
        cli.main()
    finally:
        end_at_once()


if __name__ == "__main__":
    main()
