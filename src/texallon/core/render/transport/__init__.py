"""Light paths: where they go, what they meet, and what they carry back."""
