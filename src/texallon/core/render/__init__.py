"""Pictures: camera, light, path tracing, denoising and the display transform."""
