"""Kinds that bend what is there."""
