"""What the window lets compute, off its thread, and the picture that comes of it."""
