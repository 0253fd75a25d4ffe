"""Kinds that bring plain values in."""
