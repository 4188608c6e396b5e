"""Reading characters and captured motion from files."""
