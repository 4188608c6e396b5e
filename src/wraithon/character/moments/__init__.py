"""Moments that are found on clips: feet that touch the ground, strikes, and extremes."""
