"""Kinds that turn one value into another."""
