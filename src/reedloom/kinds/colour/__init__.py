"""Kinds that make or change colour."""
