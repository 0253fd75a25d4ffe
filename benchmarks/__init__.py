"""Side-by-side timings against public libraries, and the pictures of the documentation."""
