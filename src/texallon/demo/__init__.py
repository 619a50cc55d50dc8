"""*Midwinter Glasshouse*: the demo film's shots, geometry and light, all made by code."""
