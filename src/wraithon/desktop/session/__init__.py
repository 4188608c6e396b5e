"""The project being worked on: editing, keeping, journalling, reading."""
