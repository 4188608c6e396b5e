"""The project: frozen models, files, findings, edits and undo."""
