"""What all of the program stands on: errors, files, folders, identities."""
