"""Films: veils, drawn by themselves before they are laid among sprites."""
