"""Kinds that make noise: everything natural begins here."""
