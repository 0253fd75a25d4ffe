"""Paths: curves over the tile."""
