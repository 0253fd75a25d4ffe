"""Kinds that work on surfaces."""
