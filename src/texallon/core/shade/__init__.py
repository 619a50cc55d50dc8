"""Surface scattering from channel values: one file per published part of the model."""
