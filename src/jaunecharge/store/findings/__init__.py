"""Findings: drawn up from runs, plans and packs, kept, edited, found out of date, given out."""
