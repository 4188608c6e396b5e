"""What belongs to an effect as a whole: its mixer, cost, presets and dials."""
