"""Files in and out: meshes and pictures, in open formats, read with limits."""
