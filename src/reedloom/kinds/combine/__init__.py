"""Kinds that make one map out of several."""
