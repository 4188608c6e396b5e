"""Findings: what they are, what mends them, and those about single layers."""
