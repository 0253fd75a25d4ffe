"""The lit preview: a material on an object in light, rendered off screen with OpenGL; no Qt."""
