"""Findings, a module for each kind of thing that is looked at."""
