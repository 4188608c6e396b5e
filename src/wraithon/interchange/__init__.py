"""What leaves: pictures, sequences, summaries."""
