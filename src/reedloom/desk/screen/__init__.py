"""What is wanted on screen, and work off the window's thread."""
