"""Points: what gets stamped, laid, varied, thinned and turned in separate steps."""
