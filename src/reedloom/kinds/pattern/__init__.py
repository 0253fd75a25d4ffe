"""Kinds that lay built repeats: courses, tiles, weaves, scales, cracks."""
