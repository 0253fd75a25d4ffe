"""The window itself: commands, documents, docking, the status line."""
