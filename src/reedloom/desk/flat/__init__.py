"""The flat view: a map as a picture, repeated, measured and compared."""
