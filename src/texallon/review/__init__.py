"""Review sheets: a look on the test body and on the shot's own object, under three lights, beside references of known reflectance."""
