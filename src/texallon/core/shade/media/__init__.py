"""What fills bodies: media by kind, their phase function, and which of several nested bodies a path is in."""
