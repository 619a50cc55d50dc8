"""The shelf of looks: what every project of an installation can take looks from, and the finished ones that it begins with."""
