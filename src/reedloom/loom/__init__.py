"""Evaluation: what to compute, under which key, what to keep, and how to be stopped."""
