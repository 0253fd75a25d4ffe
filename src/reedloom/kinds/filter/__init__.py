"""Kinds that work on the picture as a whole."""
