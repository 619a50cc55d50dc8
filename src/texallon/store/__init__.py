"""What is kept: projects, shots, every revision of a shot, files and snapshots, in PostgreSQL and a folder."""
