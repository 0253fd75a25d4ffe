"""Numeric loops shared by several kinds: arrays in, arrays out, no graph and no classes."""
