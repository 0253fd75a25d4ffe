"""The settings panel: one editor for each type of parameter, none for any kind of node."""
