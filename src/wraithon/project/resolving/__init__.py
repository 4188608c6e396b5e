"""What is put into effects before they are played: what dials drive, and what master values change."""
