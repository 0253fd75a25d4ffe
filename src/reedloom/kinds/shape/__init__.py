"""Kinds that draw forms."""
