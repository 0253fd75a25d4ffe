"""Sheets of their own: delivering."""
