"""The node catalogue: one folder per family, one small module per kind or tight group of kinds."""
