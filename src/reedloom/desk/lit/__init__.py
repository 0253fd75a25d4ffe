"""The lit view: its frames, its hands and its choices."""
