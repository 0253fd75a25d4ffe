"""Kinds that say where things are computed."""
