"""Where everything that can be added hangs, and finding it by typing."""
