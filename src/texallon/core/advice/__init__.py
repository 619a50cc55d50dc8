"""What the tool noticed: one craft rule per file, each over the facts that were gathered about a shot."""
