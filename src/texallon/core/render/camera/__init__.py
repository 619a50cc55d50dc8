"""Views: rays of the camera, what they hit first, and how the camera is moved."""
