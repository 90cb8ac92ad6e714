"""Kaigata: from finished bent sheet-metal parts to blanks, nests and cutting programs."""

__version__ = "0.1.0"
