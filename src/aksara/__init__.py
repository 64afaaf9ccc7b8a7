"""Aksara: desktop fonts in; small web fonts, their CSS and a page of proofs out."""

__version__ = "0.1.0"
