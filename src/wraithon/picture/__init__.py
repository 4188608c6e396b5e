"""Pictures: from a frame to pixels."""
